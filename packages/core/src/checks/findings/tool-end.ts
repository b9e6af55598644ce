import { hindered, type Hindered } from './hindered.js'
import { andMore, noAnswer, passes, refusal, skips, tells } from './definition.js'

const FRAME_REFUSED = {
  cause: 'The tool refuses frames, and this assignment opens it in one.',
  remedy: 'Set the assignment to open in a window, or have the tool allow our address.',
}

/** Cookies that a browser did not take or send, some of them with its own reason. */
type NotKept = { cookies: { name: string; reason: string }[]; more: number }

function named({ cookies, more }: NotKept): string {
  return andMore(
    cookies.map((one) => `“${one.name}” (${one.reason})`),
    more,
  )
}

const address = {
  none: skips(() => 'The registration has no launch address of its own; each link has one.'),
  refused: refusal(),
  open: tells('warn', ({ what }: { what: string }) => ({
    statement: `${what} begins with http: what is sent there can be read on the way.`,
    remedy: 'Use the tool’s https address if it has one.',
  })),
  secure: passes(({ what }: { what: string }) => `${what} is secure.`),
  on_this_machine: passes(({ what }: { what: string }) => `${what} is on this machine.`),
}

/** What a registration and the tool's end can be found to be like, without launching anybody. */
export const TOOL_END = {
  address,
  'initiation address': address,
  registration: {
    incomplete: refusal(),
    not_enabled: tells('fail', ({ state }: { state: string }) => ({
      statement: `The registration is ${state}.`,
      remedy: 'Enable it before it is used.',
    })),
    complete: passes(({ secretSetOn }: { secretSetOn: string | null }) =>
      secretSetOn === null ? 'Enabled, with everything it needs.' : `Enabled; the secret was set on ${secretSetOn}.`,
    ),
  },
  links: {
    elsewhere: tells(
      'warn',
      ({ count, origin, home, tool }: { count: number; origin: string; home: string; tool: string }) => ({
        statement: `${count} ${count === 1 ? 'link has an address' : 'links have addresses'} at ${origin}, the registration is at ${home}.`,
        remedy: `If the tool moved, let them follow: “Move addresses” on its page, or \`bathyscribe tool move-addresses ${tool} --from ${origin} --to ${home}\`.`,
      }),
    ),
  },
  answer: {
    none: noAnswer(),
    server_error: tells('fail', ({ status, ms }: { status: number; ms: number }) => ({
      statement: `The tool’s server answers ${status} in ${ms} ms.`,
      remedy: 'Its server is in trouble: ask the tool’s support.',
    })),
    answers: passes(({ ms }: { ms: number }) => `The name resolves and the tool’s server answers in ${ms} ms.`),
  },
  redirects: {
    other_host: tells('warn', ({ host, origin }: { host: string; origin: string }) => ({
      statement: `The launch address redirects to another host, ${host}: a launch posted there arrives without its fields.`,
      remedy: `Ask the vendor for the address that answers by itself; it may begin with ${origin}.`,
    })),
  },
  framing: {
    allowed: passes(() => 'The tool may be shown in a frame of ours.'),
    refused: tells('fail', ({ header }: { header: string }) => ({
      statement: `The tool refuses to be shown in a frame: ${header}`,
      remedy: 'Open it in a window, or have the tool allow our address.',
    })),
    launch_refused: tells('fail', ({ header }: { header: string }) => ({
      statement: `The tool’s page refuses to be shown in a frame: ${header}`,
      ...FRAME_REFUSED,
    })),
    not_shown: tells('fail', ({ reason }: { reason: string }) => ({
      statement: `The browser does not show the page in our frame: ${reason}.`,
      ...FRAME_REFUSED,
    })),
    led_away: tells('fail', ({ origin }: { origin: string }) => ({
      statement: `In our frame the tool leads on to ${origin}, and only the addresses of its registration are framed.`,
      cause: `The tool leads on to ${origin}, which our frame does not show.`,
      remedy:
        'Set the assignment to open in a window; or, if the address is the tool’s, register it as its launch address.',
    })),
  },
  cookies: {
    survive: passes(() => 'The tool’s cookies survive in a frame.'),
    lost: tells(
      ({ secure }: { names: string[]; secure: boolean }) => (secure ? 'fail' : 'warn'),
      ({ names }) => ({
        statement: `Browsers drop these cookies of the tool in a frame: ${names.join(', ')}.`,
        remedy: 'Tell the tool’s support to set them with SameSite=None; Secure, or open the tool in a window.',
      }),
    ),
    not_kept: tells('warn', ({ target, ...lost }: NotKept & { target: 'frame' | 'window' }) => ({
      statement: `The browser did not keep ${named(lost)}.`,
      cause: 'The browser does not keep the tool’s cookies here, so people may be signed out at the next click.',
      remedy:
        target === 'frame'
          ? 'Open it in a window; or have the tool set its cookies with SameSite=None; Secure, or keep its state without cookies.'
          : 'Have the tool’s support look at the attributes of these cookies.',
    })),
    not_needed: passes(
      (lost: NotKept) => `The browser did not keep ${named(lost)}; the tool keeps its state with the platform instead.`,
    ),
    too_many: tells('warn', ({ count }: { count: number }) => ({
      statement: `The tool sets ${count} cookies in one launch.`,
      cause: 'The tool sets more cookies than browsers need to keep.',
      remedy: 'Have the tool’s support look into it: people may be signed out for no reason that they see.',
    })),
  },
  clock: {
    agrees: passes(() => 'The tool’s clock agrees with ours.'),
    off: tells(
      ({ seconds, toleranceSeconds }: { seconds: number; toleranceSeconds: number }) =>
        seconds > toleranceSeconds ? 'fail' : 'warn',
      ({ seconds }) => ({
        statement: `The tool’s clock is ${seconds} seconds off ours.`,
        remedy: 'Set both clocks by a time server.',
      }),
    ),
  },
  keyset: {
    pasted: passes(({ keys }: { keys: number }) => `${keys} keys are pasted here; nothing is fetched.`),
    usable: passes(
      ({ keys }: { keys: number }) =>
        `The keyset answers and holds ${keys === 1 ? 'a usable key' : `${keys} usable keys`}.`,
    ),
    unusable: refusal('statement'),
  },
  secret: {
    missing: refusal('sentence'),
    sealed_otherwise: tells('fail', () => ({
      statement: 'The shared secret cannot be opened with the keys of this service.',
      cause: 'The key file is another than the one the secret was sealed with.',
      remedy: 'Bring the right key file back, or enter the shared secret again.',
    })),
    opens: passes(() => 'The shared secret is here and can be opened.'),
  },
  'previous secret': {
    ends: tells('warn', ({ days }: { days: number }) => ({
      statement: `The previous shared secret is taken for ${days} more ${days === 1 ? 'day' : 'days'}; after that a tool that still signs by it is refused.`,
      cause: 'The previous shared secret is about to end.',
      remedy: 'See that the tool’s end holds the new one.',
    })),
  },
  'key and secret': {
    no_answer: skips(() => 'Key and secret were not tried, because the launch address does not answer.'),
    agree: passes(
      ({ key }: { key: string }) =>
        `The tool tells our key “${key}” and its secret from made-up ones: both ends agree.`,
    ),
    hidden_characters: tells('fail', () => ({
      statement: 'The shared secret has spaces or invisible characters: without them the tool knows it.',
      remedy: 'Enter the shared secret again without the characters around it.',
    })),
    other_secret: tells('fail', () => ({
      statement:
        'The tool knows another secret of this registration than the one that launches are signed with: the one before, or the next.',
      remedy: 'Look at “Keys over time” on the tool’s page, and have both ends use the same.',
    })),
    swapped: tells('fail', () => ({
      statement: 'Consumer key and shared secret are swapped: the other way round the tool knows them.',
      remedy: 'Exchange consumer key and shared secret in the registration.',
    })),
    secret_wrong: tells('fail', ({ key }: { key: string }) => ({
      statement: `The shared secret is wrong, as far as the tool’s answers tell: it seems to know the key “${key}”, and answers as it does to a made-up secret.`,
      remedy: 'Copy the shared secret from the tool’s end again and enter it in the registration.',
    })),
    hindered: tells('warn', (facts: Hindered) => {
      const { cause, remedy } = hindered(facts)
      return { statement: `Key and secret could not be tried. ${cause}`, remedy }
    }),
    not_clear: tells('warn', () => ({
      statement:
        'The tool’s answers change from one time to the next, so that they do not tell whether both ends hold the same key and secret.',
      remedy: 'Run a sounding, which launches.',
    })),
    not_told: tells('warn', ({ key }: { key: string }) => ({
      statement: `The tool answers our key “${key}” and made-up ones alike, which proves nothing: it does not know the key, or it does not tell.`,
      remedy:
        'Compare the key with the one shown at the tool’s end: it must be exactly the same. Then run a sounding, which launches.',
    })),
  },
  initiation: {
    no_answer: noAnswer(),
    refused: tells('fail', ({ status }: { status: number }) => ({
      statement: `The initiation address answers ${status}.`,
      remedy:
        'Check at the tool’s end that our issuer, client ID and deployment ID are entered as the exchange sheet has them.',
    })),
    not_sent_back: tells('fail', () => ({
      statement: 'The initiation address does not send the browser back to us.',
      remedy:
        'Check that the address is the tool’s login initiation address, and that its end knows our issuer and client ID.',
    })),
    sent_elsewhere: tells('fail', ({ url }: { url: string }) => ({
      statement: `The tool sends the browser to ${url}, not to our authorisation address.`,
      remedy: 'Enter the authorisation address of the exchange sheet at the tool’s end.',
    })),
    other_client: tells('fail', ({ sent, ours }: { sent: string; ours: string }) => ({
      statement: `The tool sends the client ID “${sent}”.`,
      remedy: `Enter ${ours} as client ID at the tool’s end.`,
    })),
    redirect_not_registered: tells('fail', ({ sent }: { sent: string }) => ({
      statement: `The tool asks for the answer at “${sent}”, which is not registered.`,
      remedy: 'Add it to the redirect addresses of the registration, if the vendor names it.',
    })),
    hints_changed: tells('fail', () => ({
      statement: 'The tool does not send our hints back unchanged.',
      remedy: 'Tell the tool’s support: login_hint and lti_message_hint must come back unchanged.',
    })),
    no_state: tells('warn', () => ({
      statement: 'The tool sends no state, so it cannot tell our answer from a forged one.',
      remedy: 'Tell the tool’s support.',
    })),
    not_as_standard: tells('fail', ({ detail }: { detail: string }) => ({
      statement: `The tool’s request is not as the standard has it: ${detail}.`,
      remedy: 'Tell the tool’s support.',
    })),
    sent_back: passes(() => 'The initiation address sends the browser back to us with the right parameters.'),
  },
} as const
