import { partsOfCode, type Cause, type Diagnosis } from '../cause.js'
import { plainCommands, type Shows } from './commands.js'
import { GERMAN } from './german.js'

export const LETTER_LANGUAGES = ['en', 'de'] as const
export type LetterLanguage = (typeof LETTER_LANGUAGES)[number]

/** What a letter is about. */
export interface LetterFacts {
  tool: string
  kind: 'message' | 'token'
  /** What happened, in each language. */
  what: Readonly<Record<LetterLanguage, string>>
  at: string | null
  /** Such as a wire entry. */
  reference: string | null
  /** Our public address, and who writes. */
  platform: string
  from: string
}

interface Words {
  headline: (diagnosis: Diagnosis) => string
  /** What a cause is, and what is asked for. */
  told: (cause: Cause) => Pick<Cause, 'sentence' | 'theirs'>
  about: (tool: string, what: string, at: string) => string
  reference: string
  evidence: string
  ask: string
  ruledOut: (names: readonly string[]) => string
  likely: string
  see: string
  variables: Readonly<Record<'SECRET' | 'KEY' | 'TOKEN', string>>
  shows: Readonly<Record<Shows, string>>
}

const WORDS: Readonly<Record<LetterLanguage, Words>> = {
  en: {
    headline: ({ sentence }) => sentence,
    told: (cause) => cause,
    about: (tool, what, at) => `About ${tool}: ${what}${at && `, ${at}`}`,
    reference: 'Our reference',
    evidence: 'What shows it:',
    ask: 'What we ask of you:',
    ruledOut: (names) => `Tried and ruled out: ${names.join('; ')}.`,
    likely: 'This is likely, and not proven.',
    see: 'To see it yourselves, in a shell with openssl and curl; this letter contains no part of a secret:',
    variables: {
      SECRET: 'SECRET is the shared secret as you hold it, percent-encoded',
      KEY: 'KEY is the consumer key, percent-encoded',
      TOKEN: 'TOKEN is the token as you sent it',
    },
    shows: {
      as_it_must_be: 'The signature as it must be:',
      as_it_was_made: 'The signature as it was made, which is the one that came:',
      as_you_sign: 'By the secret that you hold; if it comes to the signature that you sent, that secret is not ours:',
      hash_of_what_came: 'The hash of what came to us:',
      our_clock: 'Our clock beside yours:',
      our_addresses: 'Our issuer and addresses:',
      our_keys: 'Our keys; those of your keyset are at your own address:',
      header: 'The header of the token, with the key that it names:',
      claims: 'The claims of the token:',
    },
  },
  de: {
    headline: inGermanAsAWhole,
    told: inGerman,
    about: (tool, what, at) => `Zu ${tool}: ${what}${at && `, ${at}`}`,
    reference: 'Unser Zeichen',
    evidence: 'Befund (technische Angaben auf Englisch):',
    ask: 'Unsere Bitte:',
    ruledOut: (names) => `Geprüft und ausgeschlossen: ${names.length} weitere bekannte Ursachen.`,
    likely: 'Das ist wahrscheinlich, aber nicht bewiesen.',
    see: 'Zum Nachprüfen, in einer Shell mit openssl und curl; von einem Secret steht nichts in diesem Brief:',
    variables: {
      SECRET: 'SECRET ist das Shared Secret, wie es bei Ihnen steht, prozentkodiert',
      KEY: 'KEY ist der Consumer Key, prozentkodiert',
      TOKEN: 'TOKEN ist das Token, wie Sie es gesendet haben',
    },
    shows: {
      as_it_must_be: 'Die Signatur, wie sie sein muss:',
      as_it_was_made: 'Die Signatur, wie sie gebildet wurde; das ist die, die ankam:',
      as_you_sign: 'Mit dem Secret, das bei Ihnen steht; ergibt das die Signatur, die Sie gesendet haben, ist dieses Secret nicht das unsere:', // oxfmt-ignore
      hash_of_what_came: 'Der Hash dessen, was bei uns ankam:',
      our_clock: 'Unsere Uhr neben Ihrer:',
      our_addresses: 'Unser Aussteller und unsere Adressen:',
      our_keys: 'Unsere Schlüssel; die Ihren stehen unter Ihrer eigenen Adresse:',
      header: 'Der Kopf des Tokens mit dem Schlüssel, den es nennt:',
      claims: 'Die Angaben des Tokens:',
    },
  },
}

/** A text for the tool’s support: what was found, what shows it, how to see it, and what is asked for. Holds no secret, for no cause does. */
export function supportLetter(diagnosis: Diagnosis, about: LetterFacts, language: LetterLanguage): string {
  const words = WORDS[language]
  const lines = [words.about(about.tool, about.what[language], about.at ?? '')]
  if (about.reference) lines.push(`${words.reference}: ${about.reference}`)
  lines.push('', words.headline(diagnosis))
  if (diagnosis.certainty === 'likely') lines.push(words.likely)
  for (const cause of diagnosis.causes) {
    const told = words.told(cause)
    lines.push('', ...(diagnosis.causes.length > 1 ? [told.sentence] : []), words.evidence)
    for (const [name, value] of cause.evidence) lines.push(`  ${name}: ${value}`)
    if (told.theirs) lines.push(`${words.ask} ${told.theirs}`)
  }
  if (diagnosis.certainty !== 'proven' && diagnosis.ruledOut.length > 0)
    lines.push('', words.ruledOut(diagnosis.ruledOut))
  lines.push(...commandsOf(diagnosis, about, words))
  return [...lines, '', about.from].join('\n')
}

function inGermanAsAWhole({ causes: [first, ...more], certainty }: Diagnosis): string {
  if (!first) return 'Keine der bekannten Ursachen erklärt es.'
  return more.length > 0 && certainty === 'several' ? 'Mehr als eine Ursache erklärt es:' : inGerman(first).sentence
}

/** Mistakes that were made together have a sentence and a request each. */
function inGerman(cause: Cause): Pick<Cause, 'sentence' | 'theirs'> {
  const told = partsOfCode(cause.code).flatMap((code) => GERMAN[code] ?? [])
  if (told.length === 0) return cause
  return {
    sentence: told.map(({ sentence }) => sentence).join(' '),
    theirs: cause.theirs === null ? null : [...new Set(told.map(({ theirs }) => theirs))].join(' '),
  }
}

function commandsOf({ causes }: Diagnosis, { platform, kind }: LetterFacts, words: Words): string[] {
  const all = causes.flatMap(({ code, reproduce = [] }) => [
    ...reproduce,
    ...partsOfCode(code).flatMap((one) => plainCommands(one, platform, kind === 'token')),
  ])
  const commands = all.filter(({ command }, n) => all.findIndex((one) => one.command === command) === n)
  if (commands.length === 0) return []
  const used = (['SECRET', 'KEY', 'TOKEN'] as const).filter((name) => commands.some(({ command }) => command.includes(`$${name}`))) // oxfmt-ignore
  return [
    '',
    words.see,
    ...used.map((name) => `  # ${words.variables[name]}`),
    ...commands.flatMap(({ shows, command }) => [`  # ${words.shows[shows]}`, `  ${command}`]),
  ]
}
