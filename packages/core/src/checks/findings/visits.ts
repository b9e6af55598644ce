import { passes, skips, tells, type Said, type Words } from './definition.js'

const READ_IT = 'Read the tool’s own words; the wire entry has what was sent.'

/** Whose work is opened, where it is somebody's. */
type Opening = { who: string | null }

/** A page of the tool that is opened beside its content. @param what its name in a sentence */
function opened(what: (who: string | null) => string) {
  return {
    opens: passes(
      ({ who, status, ms }: Opening & { status: number; ms: number }) => `${what(who)} opens: ${status} in ${ms} ms.`,
    ),
    refused: tells('fail', ({ who, said }: Opening & { said: string }) => ({
      statement: `${what(who)} does not open. ${said}`,
      cause: `${what(who)} does not open: ${said}`,
      remedy: READ_IT,
    })),
    other_page: tells('fail', ({ who, page }: Opening & { page: Said }, _, tell) => shows(what(who), tell(page))),
    /** It opens, but what it shows reads like an error. */
    doubtful: tells('warn', ({ who, page }: Opening & { page: Said }, _, tell) => shows(what(who), tell(page))),
  }
}

function shows(what: string, page: Words): Words {
  return { ...page, statement: `${what} does not open. ${page.statement}` }
}

/** What else a tool is asked for: a second visit, the roster, its picker, a review. */
export const VISITS = {
  'second visit': {
    refused: tells('fail', ({ who, said }: { who: string; said: string }) => ({
      statement: `The tool let ${who} in once, but not a second time. ${said}`,
      cause: 'The tool takes a person’s first visit only.',
      remedy: 'Read the tool’s own words; its support has to say what a second launch of one person meets there.',
    })),
    same_account: passes(() => 'The tool let the same person in again, to the same account as far as its page tells.'),
    another_account: tells('warn', ({ was, is }: { was: string; is: string }) => ({
      statement: `The tool greets the same person differently the second time: first “${was}”, then “${is}”.`,
      cause: 'The tool seems to take one person for two: each launch may make another account.',
      remedy:
        'Ask its support by which parameter it knows people again; ours is user_id or sub, which is the same each time.',
    })),
  },
  reload: {
    still_there: passes(({ status }: { status: number }) => `The page is still there after a reload: ${status}.`),
    lost: tells('fail', ({ status, page }: { status: number; page: Said | null }, _, tell) => ({
      statement: page ? tell(page).statement : `After a reload the tool answers ${status}.`,
      cause: 'The tool loses its session: a reload leads out of the work.',
      remedy: 'Tell the tool’s support; until it is fixed, work that is reloaded may be lost.',
    })),
  },
  roster: {
    refused: tells('fail', ({ entry }: { entry: string }) => ({
      statement: `The tool asked for it, and was refused: ${entry}`,
      cause: entry,
      remedy: 'Look at the wire entry: token, scope and address.',
    })),
    readable: passes(({ members, lastReadAt }: { members: number; lastReadAt: string | null }) => {
      const read = lastReadAt ? `the tool last read it at ${lastReadAt.slice(0, 16)}Z` : 'the tool has not read it yet'
      return `The tool may read ${members} ${members === 1 ? 'person' : 'people'}; ${read}.`
    }),
  },
  'expected members': {
    not_granted: tells('fail', () => ({
      statement: 'Members are expected in the roster, but the registration grants none.',
      cause: 'The tool may not read the roster that is expected of it.',
      remedy: 'Grant the roster in the registration, or expect no members.',
    })),
    enough: passes(({ from }: { from: number }) => `At least ${from} members, as expected.`),
    too_few: tells('fail', ({ members, from }: { members: number; from: number }) => ({
      statement: `The roster shows ${members} members; at least ${from} are expected.`,
      cause: 'The roster is shorter than is expected of it.',
      remedy: 'Look at the course’s people: was an import incomplete?',
    })),
  },
  picker: opened(() => 'The tool’s picker'),
  review: opened((who) => `The review of ${who}`),
} as const

/** Why a visit was not tried. */
export const NO_VISIT = {
  no_roster_granted: skips(() => 'The registration grants no roster.'),
  no_picker: skips(() => 'The registration has no picker.'),
  no_instructor: skips(() => 'The course has no instructor who could choose.'),
  picker_closed: skips(() => 'The picker was closed in the meantime.'),
  no_review: skips(() => 'The tool does not say that single submissions can be looked at.'),
} as const
