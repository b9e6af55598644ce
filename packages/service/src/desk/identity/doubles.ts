import { Refusal, type PersonPart } from '@bathyscribe/contract'
import { likenessesOf, scoresOf, type Likeness, type NamedLaunch } from '@bathyscribe/core/identity'
import type { z } from 'zod'
import type { SentLaunchRow } from '../../records/doubles.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { Records } from '../../records/index.js'
import { recompute } from '../assignments/recompute.js'
import { by, type Actor, type Context } from '../context.js'
import { personRef, type PersonRefRow } from './person-ref.js'
import { asTaken, newPerson } from './people.js'

/** Wire entries that are looked through, the newest; read so many launches at a time. */
const LOOKED_THROUGH = 200_000
const AT_A_TIME = 2000
const MOST_ACCOUNTS = 200

export interface Double {
  person: PersonRefRow
  likenesses: Likeness[]
}

/** Accounts under which tools were told of people who have nothing in common. */
export async function findDoubles({ records }: Context): Promise<{ lookedThrough: number; doubles: Double[] }> {
  const newest = BigInt(await records.doubles.newest())
  const from = newest > LOOKED_THROUGH ? newest - BigInt(LOOKED_THROUGH) + 1n : 1n
  const byPerson = new Map<string, NamedLaunch[]>()
  for (let before = newest + 1n; ;) {
    const rows = await records.doubles.between(String(from), String(before), AT_A_TIME)
    for (const row of rows) {
      const known = byPerson.get(row.personId)
      if (known) known.push(named(row))
      else byPerson.set(row.personId, [named(row)])
    }
    if (rows.length < AT_A_TIME) break
    before = BigInt(rows.at(-1)!.id)
  }
  // Nearly everybody is told of in one way only, and need not be looked at.
  const found = [...byPerson]
    .filter(([, launches]) => launches.some(differsFrom(launches[0]!)))
    .map(([personId, launches]) => ({ personId, likenesses: likenessesOf(launches) }))
    .filter(({ likenesses }) => likenesses.length > 1)
    .slice(0, MOST_ACCOUNTS)
  const people = new Map((await records.people.refs(found.map((one) => one.personId))).map((one) => [one.id, one]))
  return {
    lookedThrough: Number(newest - from) + 1,
    doubles: found.flatMap(({ personId, likenesses }) => {
      const person = people.get(personId)
      return person ? [{ person, likenesses }] : []
    }),
  }
}

export interface Parted {
  done: boolean
  person: PersonRefRow
  made: Pick<PersonRecord, 'username' | 'fullName' | 'email'>
  launches: number
  scores: number
  /** Entries of the trail of which it is not known whose they are; they stay. */
  undecided: number
  courses: string[]
}

/** What belongs to the one of that name. @throws Refusal `person.not_double` */
async function partOf(records: Records, personId: string, name: string) {
  const all = likenessesOf((await records.doubles.launchesOf(personId)).map(named))
  const of = all.find((one) => one.names.includes(name))
  if (!of || all.length < 2) throw new Refusal('person.not_double', name)
  return { of, ...scoresOf(of, all, await records.doubles.trailOf(personId)) }
}

/**
 * Takes one of the people out of an account that several share: a new account is made, with the launches under that name, the scores that came after them, and the
 * same places in their courses. Results of both are derived anew. The tools know the new one as somebody new.
 * @throws Refusal `person.not_found`, `person.not_double`, `person.username_taken`
 */
export async function partPerson(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof PersonPart>,
): Promise<Parted> {
  const { records } = context
  const person = await records.people.known(ref)
  if (await records.people.byRef(wanted.username)) throw new Refusal('person.username_taken', wanted.username)
  const parted = await records
    .transaction(async (inside) => {
      await inside.doubles.lock(person.id)
      const { of, theirs, undecided } = await partOf(inside, person.id, wanted.name)
      const made = await newPerson(context, {
        username: wanted.username,
        fullName: of.name,
        givenName: '',
        familyName: '',
        email: wanted.email ?? of.emails.at(-1),
        sourcedId: undefined,
        siteRole: 'none',
        password: undefined,
      })
      const courses = await inside.doubles.codesOf(of.launches.flatMap((one) => one.courseId ?? []))
      const answer = {
        done: wanted.apply,
        person: personRef(person),
        made: { username: made.username, fullName: made.fullName, email: made.email },
        launches: of.launches.length,
        scores: theirs.length,
        undecided: undecided.length,
        courses: courses.map((one) => one.code),
      }
      if (!wanted.apply) return { answer, courses: [] }
      const columns = await inside.doubles.columnsOf(
        [...theirs, ...of.launches].flatMap((one) => one.assignmentId ?? []),
      )
      await inside.assignments.lockAll(columns)
      await inside.people.insert(made)
      await inside.doubles.give({ from: person.id, to: made.id, launches: of.launches, scores: theirs })
      for (const one of [person.id, made.id]) await recompute(inside, columns, one)
      await inside.audit.add({
        at: context.clock.now(),
        ...by(actor),
        action: 'part person',
        subject: `person ${person.username}`,
        after: { made: made.username, name: of.name, launches: answer.launches, scores: answer.scores },
      })
      return { answer, courses }
    })
    .catch(asTaken(wanted.username))
  for (const { id } of parted.courses) context.changes.publish({ kind: 'people', courseId: id })
  return parted.answer
}

const differsFrom = (first: NamedLaunch) => (one: NamedLaunch) => one.name !== first.name || one.email !== first.email

/** What a tool was told of the person by a launch of either version. */
function named({ id, at, assignmentId, courseId, parameters, body }: SentLaunchRow): NamedLaunch {
  const claims = claimsOf(body)
  const given = (name: string) => parameters?.find((one) => one[0] === name)?.[1]
  const claim = (name: string) => (typeof claims[name] === 'string' ? claims[name] : undefined)
  return {
    wireEntryId: id,
    at,
    assignmentId,
    courseId,
    name: given('lis_person_name_full') ?? claim('name') ?? '',
    email: given('lis_person_contact_email_primary') ?? claim('email') ?? null,
  }
}

function claimsOf(body: string | null): Record<string, unknown> {
  try {
    return (JSON.parse(body ?? '{}') ?? {}) as Record<string, unknown>
  } catch {
    return {}
  }
}
