import type { FramePermission } from '../../links/index.js'
import { andMore, passes, tells } from './definition.js'

/** Some of a list, and how many more there were. */
export interface Listed {
  some: string[]
  more: number
}

/** What a tool's page can be found to be like once it took a launch. */
export const PAGE = {
  'login page': {
    shown: tells('fail', ({ words }: { words: string }) => ({
      statement: `The tool shows a login page instead of content: “${words}”`,
      cause: 'The tool asks people to sign in, although the launch has said who they are.',
      remedy:
        'Have the tool’s support say whether accounts must exist there before, and by what they are matched; or whether its session is lost in a frame: try a window.',
    })),
  },
  'error page': {
    shown: tells('warn', ({ status, heading, words }: { status: number; heading: string; words: string }) => ({
      statement: `The tool answered ${status}, but its page is headed “${heading}”: “${words}”`,
      cause: `The tool’s page reads like an error: “${heading}”`,
      remedy: 'Open it as the test learner and read it; if it is an error, send the wire entry to the tool’s support.',
    })),
  },
  script: {
    never_ends: tells('fail', () => ({
      statement: 'A script of the tool’s page kept the browser busy until it was stopped.',
      cause: 'A script of the tool’s page never ends.',
      remedy: 'Send the tool’s support the time and the page’s address.',
    })),
    fails: tells('warn', ({ error, more }: { error: string; more: number }) => ({
      statement: `The tool’s page complains: ${andMore([`“${error}”`], more)}.`,
      cause: 'A script of the tool’s page fails.',
      remedy: 'Check in the picture whether the page can still be used, and send the words to the tool’s support.',
    })),
  },
  'frame permissions': {
    shut: tells('warn', ({ permissions, tool }: { permissions: FramePermission[]; tool: string }) => ({
      statement: `The page asked for ${inOneLine(permissions)}, which its frame does not let it use.`,
      cause: `The tool’s page needs ${inOneLine(permissions)}, and its registration does not give it in a frame.`,
      remedy: `If its work needs that, allow it on the tool’s page (“In a frame it may use”), or with \`bathyscribe tool change ${tool} ${permissions.map((one) => `--frame-permission ${one}`).join(' ')}\`; the browser still asks each person.`,
    })),
  },
  'mixed content': {
    kept_out: tells('warn', ({ addresses }: { addresses: Listed }) => ({
      statement: `The page asks for parts without TLS, which browsers keep out: ${andMore(addresses.some, addresses.more)}.`,
      cause: 'Parts of the tool’s page come without TLS.',
      remedy: 'Have the tool’s support serve them by https.',
    })),
  },
  windows: {
    opened: tells('warn', ({ addresses }: { addresses: Listed }) => ({
      statement: `The page opened windows by itself: ${andMore(addresses.some, addresses.more)}.`,
      cause: 'The tool opens windows that browsers block.',
      remedy: 'Set the assignment to open in a window, or have the tool open them on a click.',
    })),
  },
  visible: {
    seen: passes(
      ({ ms, words }: { ms: number; words: string }) => `Something was to be seen after ${ms} ms: “${words}”`,
    ),
    blank: tells('fail', () => ({
      statement: 'The page stayed empty: nothing was visible.',
      cause: 'The tool’s page stays empty.',
      remedy: 'Look at the script errors and blocked cookies above; open it in a window to compare.',
    })),
  },
} as const

const PERMISSION_WORDS: Readonly<Record<FramePermission, string>> = {
  camera: 'the camera',
  microphone: 'the microphone',
  screen_sharing: 'screen sharing',
  clipboard: 'the clipboard',
  full_screen: 'the full screen',
}

const SENTENCE = new Intl.ListFormat('en-GB')

/** `the camera, the microphone and screen sharing` */
function inOneLine(permissions: readonly FramePermission[]): string {
  return SENTENCE.format(permissions.map((one) => PERMISSION_WORDS[one]))
}

const SOME = 3
const CHARACTERS = 120

/** Shortened to what a sentence can hold. */
export function shortList(all: readonly string[]): Listed {
  return { some: all.slice(0, SOME).map((one) => one.slice(0, CHARACTERS)), more: Math.max(0, all.length - SOME) }
}
