/** One of our words, with what the standards and the mails of vendors call the same thing. */
export interface GlossaryEntry {
  word: string
  means: string
  /** In the standards, word for word. */
  standards?: readonly string[]
  /** In mails and settings of vendors, in English and German. */
  also?: readonly string[]
}

/** Our words by their part of the work. The page `docs/glossary.md` and the one in the console are made from it. */
export const GLOSSARY: readonly { part: string; entries: readonly GlossaryEntry[] }[] = [
  {
    part: 'Registering a tool',
    entries: [
      {
        word: 'tool',
        means: 'A web service outside of the platform that is opened from a course.',
        standards: ['Tool Provider (LTI 1.1)', 'Tool (LTI 1.3)'],
        also: ['app', 'integration', 'provider', 'Werkzeug', 'Anwendung'],
      },
      {
        word: 'registration',
        means: 'What both ends know of each other: keys, addresses, and what the tool may do.',
        standards: ['consumer key and secret (LTI 1.1)', 'client registration (LTI 1.3)'],
        also: ['tool setup', 'installation', 'Registrierung'],
      },
      {
        word: 'consumer key',
        means: 'Names the registration in a message of LTI 1.1. It is not secret.',
        standards: ['oauth_consumer_key'],
        also: ['key', 'API key', 'Schlüssel'],
      },
      {
        word: 'shared secret',
        means: 'Signs the messages of LTI 1.1. Both ends hold the same; nobody else may.',
        standards: ['shared secret'],
        also: ['secret', 'Geheimnis', 'Passwort des Tools'],
      },
      {
        word: 'client ID',
        means: 'Names the registration in LTI 1.3. It is not secret.',
        standards: ['client_id', 'aud'],
        also: ['application ID', 'Client-ID'],
      },
      {
        word: 'deployment',
        means: 'One use of a registration of LTI 1.3: for the institution, or for one course.',
        standards: ['deployment_id'],
        also: ['deployment ID'],
      },
      {
        word: 'launch address',
        means: 'The address at the tool that a launch is sent to.',
        standards: ['launch_url', 'target_link_uri'],
        also: ['launch URL', 'tool URL', 'tool link', 'Start-URL', 'target link URI'],
      },
      {
        word: 'login initiation address',
        means: 'The address at the tool where a launch of LTI 1.3 begins.',
        standards: ['initiate_login_uri'],
        also: ['login URL', 'OIDC login', 'initiate login'],
      },
      {
        word: 'redirect address',
        means: 'An address at the tool that the signed launch of LTI 1.3 may be sent to.',
        standards: ['redirect_uris'],
        also: ['redirect URI', 'callback'],
      },
      {
        word: 'keyset address',
        means: 'Where an end publishes the keys that its messages are verified by.',
        standards: ['jwks_uri'],
        also: ['JWKS URL', 'public keyset', 'Keyset'],
      },
      {
        word: 'personal data it sees',
        means: 'What a tool is told of a person: nothing, the name, or name and email address.',
        also: ['privacy level', 'data shared', 'Datenschutzstufe'],
      },
      {
        word: 'exchange sheet',
        means: 'All values that one end has to enter at the other, on one page.',
        also: ['configuration details', 'platform details'],
      },
    ],
  },
  {
    part: 'Courses and work',
    entries: [
      {
        word: 'course',
        means: 'What people are in, and what work belongs to.',
        standards: ['context'],
        also: ['class', 'section', 'Kurs'],
      },
      {
        word: 'unit',
        means: 'A part of a course’s outline, in the order in which it is worked through.',
        also: ['module', 'section', 'topic', 'week', 'Abschnitt'],
      },
      {
        word: 'assignment',
        means: 'Work at a tool that returns a score to a column of the gradebook.',
        standards: ['resource link with a line item'],
        also: ['activity', 'graded link', 'Aufgabe'],
      },
      {
        word: 'picker',
        means: 'The tool’s page on which content is chosen; what was chosen comes back to the course.',
        standards: ['Deep Linking', 'ContentItemSelectionRequest (LTI 1.1)'],
        also: [
          'content selection',
          'content picker',
          'deep link',
          'deep linking',
          'resource selection',
          'Inhaltsauswahl',
        ],
      },
      {
        word: 'placement',
        means: 'Where a tool can be opened from: an assignment, the course menu, a unit, the editor.',
        standards: ['placements'],
        also: ['Platzierung'],
      },
      {
        word: 'frame, window',
        means: 'A tool opens inside the page, or in a window of its own.',
        standards: ['presentation_document_target', 'document_target'],
        also: ['embedded', 'new tab', 'new window'],
      },
      {
        word: 'first entry',
        means: 'The first launch by an instructor, at which some tools tie a course to themselves.',
        also: ['account linking', 'course connection'],
      },
    ],
  },
  {
    part: 'Scores',
    entries: [
      {
        word: 'column',
        means: 'One row of results in the gradebook, of an assignment or made by a tool.',
        standards: ['line item'],
        also: ['line item', 'gradebook column', 'grade item', 'Bewertungsspalte'],
      },
      {
        word: 'returning scores',
        means: 'The tool sends a score, and it arrives in the gradebook.',
        standards: ['Basic Outcomes (LTI 1.1)', 'Assignment and Grade Services (LTI 1.3)'],
        also: ['grade passback', 'grade sync', 'grade return', 'Notenübertragung'],
      },
      {
        word: 'score, result',
        means: 'A score is one message of a tool. The result is what the gradebook shows after all of them.',
        standards: ['resultScore', 'scoreGiven', 'Result'],
        also: ['grade', 'mark', 'Punktzahl', 'Note'],
      },
      { word: 'trail', means: 'Every score ever received for one learner in one column, and what became of it.' },
      {
        word: 'case',
        means: 'Everything that happened between one learner and one assignment, why, and who has to act.',
        also: ['ticket', 'missing grade', 'Supportfall'],
      },
      {
        word: 'part of the total, included, counts',
        means: 'A column is part of the total, or not. A learner is included, or exempt. Of several scores one counts.',
      },
      {
        word: 'handing on',
        means: 'Results go on to the records office, the system that keeps final grades.',
        standards: ['OneRoster 1.2 Gradebook'],
        also: ['grade export', 'SIS sync'],
      },
      {
        word: 'roster',
        means: 'The people of a course with their roles; what a tool may read of them.',
        standards: ['Names and Role Provisioning Services'],
        also: ['roster sync', 'class list', 'Teilnehmerliste'],
      },
    ],
  },
  {
    part: 'Checking',
    entries: [
      { word: 'proof line', means: 'Six marks of a link: registered, linked, published, launched, scored, recorded.' },
      {
        word: 'preflight',
        means: 'What is checked of an assignment before it is published, without opening the tool.',
      },
      { word: 'sounding', means: 'A link is opened as its test learner, step by step, until a score came back.' },
      { word: 'sweep', means: 'Soundings of many links, at once or every night.' },
      { word: 'rehearsal', means: 'An instructor works in a course as its test learner.' },
      {
        word: 'test learner',
        means: 'The made-up learner that every course has. It is in no roster, total or export.',
      },
      {
        word: 'wire log',
        means: 'Every message between the platform and the tools, with secrets masked.',
        also: ['request log'],
      },
      {
        word: 'diagnosis',
        means: 'What was found out about a refused message: proven by recomputing, likely, or nothing.',
      },
    ],
  },
  {
    part: 'Signing in',
    entries: [
      {
        word: 'identity provider',
        means: 'Where people have the account that they sign in here with, beside user name and password.',
        standards: ['OpenID Provider (OpenID Connect Core 1.0)', 'Issuer'],
        also: ['single sign-on', 'SSO', 'login server', 'Anmeldedienst'],
      },
      {
        word: 'to tie',
        means: 'To make an account at an identity provider that of a person here, from then on.',
        also: ['link accounts', 'connect accounts', 'Konten verknüpfen'],
      },
    ],
  },
]
