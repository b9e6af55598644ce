import type { Fault } from './fault.js'

const NO_TESTERS = 'refuses_test_learner'
const NO_FRAMES = 'refuses_frames'
const kept = (fault: string) => (parameters: Record<string, string>) =>
  parameters['practice_fault'] === fault
    ? undefined
    : 'The tool itself was changed by taking practice_fault away; put it back and fix our end.'

/** A dozen set-ups that are broken in ways that happen, in the order of the way that a launch goes. */
export const FAULTS: readonly Fault[] = [
  {
    name: 'draft',
    title: 'Whipping and seizing',
    kind: 'drills',
    reportedBy: 'a learner',
    symptom: 'Tomas said the drill on whipping is open. I have looked everywhere; it is not in the course.',
    hints: ['Look at the assignment’s proof: which mark is the first that is not lit?'],
    draft: true,
    stillWrong: ({ assignment }) => (assignment.state === 'published' ? undefined : 'Learners still cannot see it.'),
  },
  {
    name: 'group',
    title: 'Heaving line relay',
    kind: 'drills',
    reportedBy: 'a learner',
    symptom: 'The others talk about a relay drill. My course page does not have it, and nobody else’s does either.',
    hints: ['It is published. Whom is it for?'],
    breakAssignment: { audience: { groups: ['Relay watch'] } },
    stillWrong: ({ assignment }) =>
      assignment.audience && assignment.audience.reached === 0 ? 'It is still for nobody.' : undefined,
  },
  {
    name: 'suspended',
    title: 'Cleats and bollards',
    kind: 'drills',
    reportedBy: 'a learner',
    symptom: 'It says that the tool cannot be opened just now. It has said so for a week.',
    hints: ['The page is ours, not the tool’s: what is the state of its registration?'],
    suspend: true,
    stillWrong: ({ tool }) => (tool.state === 'enabled' ? undefined : 'Its registration is still not enabled.'),
  },
  {
    name: 'address',
    title: 'Round turns',
    kind: 'drills',
    reportedBy: 'an instructor',
    symptom: 'There is a page of the tool, but it only says that there is nothing here.',
    hints: ['Run a sounding: which address answers, and with what?', 'Compare it with that of “Knotwork Drills”.'],
    breakTool: ({ launchUrl }) => ({ launchUrl: launchUrl!.replace(/\/launch$/, '/lauch') }),
  },
  {
    name: 'secret',
    title: 'Hitches under load',
    kind: 'drills',
    reportedBy: 'a learner',
    symptom: 'I click on it and the tool says “Launch refused”. Yesterday it worked, says Oren.',
    hints: [
      'Run a sounding and read the cause.',
      '`tool secret knotwork-drills` shows the secret that works; `tool change … --secret-file -` takes it.',
    ],
    breakTool: ({ sharedSecret }) => ({
      sharedSecret: sharedSecret.replace(/.$/, (last) => (last === '1' ? '7' : '1')),
    }),
  },
  {
    name: 'swapped',
    title: 'Bowline against the clock',
    kind: 'drills',
    reportedBy: 'an instructor',
    symptom: 'I registered it myself from the vendor’s mail, both values are right, I have checked them three times.',
    hints: ['Both values are right. Is each in its place?'],
    breakTool: ({ consumerKey, sharedSecret }) => ({ consumerKey: sharedSecret, sharedSecret: consumerKey! }),
  },
  {
    name: 'frame',
    title: 'Splices by pictures',
    kind: 'drills',
    reportedBy: 'a learner',
    symptom: 'The page has a grey box where the drill should be.',
    hints: ['What does a sounding say of frames?', 'The tool will not change. Where else may it open?'],
    breakAssignment: { documentTarget: 'frame', customParameters: { drill: 'bends', practice_fault: NO_FRAMES } },
    stillWrong: ({ assignment }) => kept(NO_FRAMES)(assignment.customParameters),
  },
  {
    name: 'content',
    title: 'Fronts and their clouds',
    kind: 'drills',
    reportedBy: 'a learner',
    symptom: 'It opens and I can do it, but the questions are about ropes. This is the weather unit.',
    hints: [
      'What is expected of its page?',
      'Which content opens is a custom parameter; the tool’s front page lists them.',
    ],
    breakAssignment: { customParameters: { drill: 'bends' } },
    shows: 'Clouds',
  },
  {
    name: 'tester',
    title: 'Night watch knots',
    kind: 'drills',
    reportedBy: 'an instructor',
    symptom: 'When I rehearse it the tool throws me out. Is it broken for my learners as well?',
    hints: [
      'Is it the key and the secret, or the person?',
      'Sound it as a real learner who has agreed: --pilot and --agreed.',
    ],
    breakAssignment: { customParameters: { drill: 'bends', practice_fault: NO_TESTERS } },
    pilot: true,
    stillWrong: ({ assignment }) => kept(NO_TESTERS)(assignment.customParameters),
  },
  {
    name: 'redirect',
    title: 'Altitude corrections',
    kind: 'bench',
    reportedBy: 'a learner',
    symptom: 'A page of the academy says that the tool asks for something that is not allowed.',
    hints: ['Compare the redirect addresses: they must be exactly the same.'],
    breakTool: ({ redirectUris }) => ({ redirectUris: redirectUris.map((one) => `${one}/`) }),
  },
  {
    name: 'scope',
    title: 'Intercepts',
    kind: 'bench',
    reportedBy: 'a learner',
    symptom: 'The bench shows me 64 per cent, and my course shows nothing at all.',
    hints: ['Does the sounding expect a score at all?', 'What was the registration granted when it was approved?'],
    breakTool: ({ scopes }) => ({ scopes: scopes.filter((one) => !one.endsWith('/score')) }),
  },
  {
    name: 'keyset',
    title: 'Lines of position',
    kind: 'bench',
    reportedBy: 'the tool’s support',
    symptom: 'Since your server was moved your token address refuses everything that we sign.',
    hints: ['Which keys do we hold of theirs, and where do they come from?'],
    breakTool: ({ keysetUrl }) => ({ keysetUrl: `${keysetUrl!}s` }),
  },
]
