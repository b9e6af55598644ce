import { objectionWords, type Objected } from '../../diagnosis/index.js'
import { ASK_SUPPORT, hindered, type Hindered } from './hindered.js'
import { hintOf, passes, refusal, tells, type Definition, type Said } from './definition.js'

/** As whom it was launched, and what the tool answered. */
type Refused = { who: string; said: string }

const READ_IT = 'Read the tool’s own words above; send them with the wire entry to its support.'

/** A launch that was refused, with one cause of its own. */
function refused<F extends Refused = Refused>(because: (facts: F) => { cause: string; remedy: string }): Definition<F> {
  return tells<F>('fail', (facts) => ({
    statement: `Launched as ${facts.who}. ${facts.said}`,
    ...because(facts),
  }))
}

const moved = ({ to }: { to: string }) => ({
  cause: `The address redirects to ${to}: what was posted is lost on the way.`,
  remedy: `Ask the vendor for the address that answers by itself; it may begin with ${to}.`,
})

/** What a launch can be found to be like: what was sent, whether the tool took it, and why not. */
export const LAUNCH = {
  launch: { refused_here: refusal('sentence') },
  sent: {
    as_standard: passes(
      ({ count, parts }: { count: number; parts: 'claims' | 'parameters' }) =>
        `All ${count} ${parts} are as standard and registration have them; no secret is among them.`,
    ),
    not_as_standard: tells('fail', ({ problem }: { name: string; problem: string }) => ({
      statement: problem,
      cause: `What we send is not as it should be: ${problem}`,
      remedy:
        'Look at the custom parameters of registration and assignment; if they are right, it is a fault of this service.',
    })),
  },
  taken: {
    taken: passes(
      ({
        who,
        status,
        ms,
        steps,
      }: {
        who: string
        status: number
        ms: number
        steps: { path: string; ms: number }[]
      }) => {
        const more = steps.length - 1
        const redirects = more > 0 ? ` after ${more} more ${more > 1 ? 'steps' : 'step'}` : ''
        const parts = more > 0 ? ` (${steps.map((one) => `${one.path} ${one.ms}`).join(', ')})` : ''
        return `Launched as ${who}: the tool answered ${status}${redirects} in ${ms} ms${parts}.`
      },
    ),
    /** Nothing that was tried tells why. */
    refused: tells(
      'fail',
      ({ who, said, wrong, code }: Refused & { wrong: Said | null; code: string | null }, explain, tell) => ({
        statement: `Launched as ${who}. ${said}`,
        cause: said,
        remedy: (wrong && tell(wrong).remedy) ?? (code === null ? READ_IT : hintOf(code, explain)),
      }),
    ),
    moved: refused<Refused & { to: string }>(moved),
    earlier_address: refused(({ named, now }: Refused & { named: string; now: string }) => ({
      cause: `The tool names ${named}, under which this platform was run before; it is ${now} now.`,
      remedy:
        'Enter our present address at the tool’s end as issuer or platform address, with everything on the exchange sheet; or put `publicUrl` back.',
    })),
    objected: refused(({ objection }: Refused & { objection: Objected }) => {
      const { statement, remedy } = objectionWords(objection)
      return { cause: statement, remedy }
    }),
    server_error: refused(({ status }: Refused & { status: number }) => hindered({ what: 'server_error', status })),
    refuses_test_learner: refused(() => ({
      cause: 'The tool takes an instructor under the same key and secret, but refuses the test learner.',
      remedy:
        'Read the tool’s own words; if it takes no test learners, sound it with a pilot: a learner who has agreed, and whose numbers stay as they are.',
    })),
    secret_has_hidden_characters: refused(() => ({
      cause: 'The shared secret has spaces or invisible characters: without them the tool takes the launch.',
      remedy: 'Enter the shared secret again without the characters around it.',
    })),
    next_secret_is_held: refused(() => ({
      cause: 'The tool has the next secret already: signed with that it takes the launch.',
      remedy:
        'End the old secret on the tool’s page under “Keys over time”; launches are then signed with the new one.',
    })),
    previous_secret_is_held: refused(() => ({
      cause: 'The tool still has the previous secret: signed with that it takes the launch.',
      remedy: 'Enter the new secret at the tool’s end; until then enter the previous one in the registration again.',
    })),
    key_and_secret_swapped: refused(() => ({
      cause: 'Consumer key and shared secret are swapped: the other way round the tool takes the launch.',
      remedy: 'Exchange consumer key and shared secret in the registration.',
    })),
    not_verified: refused(() => ({
      cause: 'The tool takes the same launch under a made-up key or secret: it does not verify what it receives.',
      remedy: 'Ask the tool’s support why launches are not verified, and what it refused this time.',
    })),
    address_wrong: refused(({ status, url }: Refused & { status: number; url: string }) => ({
      cause: `Whatever key and secret, the tool’s server answers ${status} at ${url}: ${
        status === 405
          ? 'the address takes no launches.'
          : 'there is nothing at the address; or, less often, a tool answers so to a key that it does not know.'
      }`,
      remedy:
        'Compare the launch address with the one shown at the tool’s end: it must be exactly the same. Then compare the key.',
    })),
    key_or_secret_wrong: refused(({ key }: Refused & { key: string }) => ({
      cause: `The tool answers just so to made-up keys and secrets, which proves nothing: it may not know the consumer key “${key}”, not tell a wrong key from a wrong secret, or object to something that it looks at before either.`,
      remedy:
        'Read the tool’s own words above. If they say nothing, compare the key with the one shown at the tool’s end, then the secret.',
    })),
    secret_wrong: refused(({ key }: Refused & { key: string }) => ({
      cause: `The shared secret is wrong, as far as the tool’s answers tell: it seems to know the key “${key}”, and answers as it does to a made-up secret.`,
      remedy: 'Copy the shared secret from the tool’s end again and enter it in the registration.',
    })),
    not_the_credentials: refused(() => ({
      cause:
        'Key and secret are most likely not what the tool objects to: it answers differently to made-up ones, each time that they were sent.',
      remedy: 'Read the tool’s own words above, and send them with the wire entry to its support.',
    })),
    hindered: refused<Refused & Hindered>(hindered),
    unsteady: refused(() => ({
      cause:
        'The tool takes a launch at one time and refuses the same at another: it is not key or secret, nor anything in the launch.',
      remedy: ASK_SUPPORT,
    })),
    not_told: refused(() => ({
      cause: 'The tool’s answers change from one time to the next, so that they do not tell what it objects to.',
      remedy: READ_IT,
    })),
  },
  redirect: {
    moved: tells('fail', (facts: { to: string }) => ({ statement: moved(facts).cause, ...moved(facts) })),
  },
  'expected time': {
    within: passes(({ expectedMs }: { expectedMs: number }) => `It answered within the expected ${expectedMs} ms.`),
    slower: tells('fail', ({ ms, expectedMs }: { ms: number; expectedMs: number }) => ({
      statement: `It answered after ${ms} ms; ${expectedMs} were expected.`,
      cause: `The tool answers more slowly than the ${expectedMs} ms that are expected of it.`,
      remedy: 'Look at the parts of the time in the wire entry; change what is expected if it is too little.',
    })),
  },
  'expected words': {
    shown: passes(({ words }: { words: string }) => `The page shows “${words}”, as expected.`),
    missing: tells('fail', ({ words }: { words: string }) => ({
      statement: `The page does not show “${words}”.`,
      cause: 'The page does not show what is expected of it.',
      remedy: 'Open it as the test learner: does the link lead to other content than it did?',
    })),
  },
} as const
