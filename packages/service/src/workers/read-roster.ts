import { Problem } from '@bathyscribe/core/result'
import {
  readOneRoster,
  readRosterTable,
  ROSTER_LIMITS,
  type Roster,
  type RosterRefusal,
} from '@bathyscribe/core/oneroster'
import { strFromU8, unzipSync } from 'fflate'

/** A roster as it was handed in, in one of two forms. */
export interface RosterFile {
  /** OneRoster CSV, as base64. */
  zip?: string | undefined
  /** CSV or pasted cells. */
  table?: string | undefined
  /** For lines of a table that name none. */
  course?: string | undefined
}
type RosterFileRefusal = Problem<RosterRefusal['code'] | 'roster.archive' | 'roster.nothing'>

const MOST_FILES = 60

/** What comes back from a thread: classes do not travel. */
export type RosterRead = { roster: Roster } | { refused: Pick<RosterFileRefusal, 'code' | 'detail'> }

/** Unfolds and reads a roster: hundreds of thousands of lines, for which nobody else shall wait. */
export function readRoster(file: RosterFile): RosterRead {
  const found = read(file)
  return found instanceof Problem ? { refused: { code: found.code, detail: found.detail } } : { roster: found }
}

function read({ zip, table, course }: RosterFile): Roster | RosterFileRefusal {
  if (table !== undefined && zip === undefined) return readRosterTable(table, course)
  if (zip === undefined) return new Problem('roster.nothing', '')
  const files = unpack(zip)
  return files instanceof Problem ? files : readOneRoster(files.texts)
}

/** Texts of an archive by file name, without folders. The sizes that it states bound what is kept of it, whatever it unfolds to. */
function unpack(zip: string): { texts: Record<string, string> } | RosterFileRefusal {
  let size = 0
  let count = 0
  let tooLarge: string | undefined
  try {
    const files = unzipSync(Buffer.from(zip, 'base64'), {
      filter: (file) => {
        size += file.originalSize
        count += 1
        if (size > ROSTER_LIMITS.characters || count > MOST_FILES) tooLarge ??= file.name.slice(0, 80)
        return tooLarge === undefined && /\.csv$/i.test(file.name)
      },
    })
    if (tooLarge !== undefined) return new Problem('table.too_large', tooLarge)
    const texts = Object.entries(files).map(([name, bytes]) => [name.split('/').at(-1)!, strFromU8(bytes)])
    return { texts: Object.fromEntries(texts) as Record<string, string> }
  } catch (error) {
    return new Problem('roster.archive', (error as Error).message.slice(0, 80))
  }
}
