import { ServiceRefusal, type Assignment, type Client, type Tool } from '@bathyscribe/contract'
import { EXIT, Failure } from '../terminal/failure.js'
import type { Fault } from './fault.js'
import { FAULTS } from './faults.js'

/** The course that the set-ups stand in, apart from the academy's own. */
export const COURSE = 'FLT-100'
const GROUP_SET = 'Watches'
const EMPTY_GROUP = 'Relay watch'
const FROM = 'HYD-210'
const LEARNERS = 3
const POINTS = '10'

type Right = Tool & { sharedSecret: string }

/** Puts every set-up into its broken state, making what is not there yet. Nothing of the academy's other courses is touched. @throws Failure outside of the demo academy */
export async function beginFaults(client: Client, say: (line: string) => void): Promise<void> {
  const drills = await rightDrills(client)
  const bench = await found(client.call('showTool', { params: { tool: 'sextant-bench' } }))
  if (!drills || !bench)
    throw new Failure(
      'This is not the demo academy.',
      EXIT.refused,
      'The faults are set up in the demo only: start it with `npm run demo`.',
    )
  await makeCourse(client)
  const before = await assignmentsByTitle(client)
  for (const [i, fault] of FAULTS.entries()) {
    say(`${i + 1} of ${FAULTS.length}: ${fault.title}`)
    const there = before.get(fault.title)
    const tool = there
      ? await client.call('showTool', { params: { tool: there.tool.id } })
      : await registerFor(client, fault, drills, bench)
    await setRight(client, fault, tool, drills, bench)
    const assignment = there ?? (await makeAssignment(client, fault, tool))
    await breakIt(client, fault, assignment, tool, drills)
  }
}

/** Ends the practice: the set-ups' registrations are retired and their assignments taken out of sight. */
export async function endFaults(client: Client): Promise<number> {
  const all = [...(await assignmentsByTitle(client)).values()]
  for (const one of all) {
    if (one.state === 'published')
      await client.call('unpublishAssignment', { params: { assignment: one.id }, body: { keepScores: true } })
    if (one.tool.state !== 'retired')
      await client.call('setToolState', { params: { tool: one.tool.id }, body: { state: 'retired' } })
  }
  return all.length
}

/** The set-ups' assignments by their titles; none before they were begun. */
export async function assignmentsByTitle(client: Client): Promise<Map<string, Assignment>> {
  const answer = await found(client.call('listAssignments', { params: { course: COURSE } }))
  return new Map((answer?.items ?? []).map((one) => [one.title, one]))
}

async function rightDrills(client: Client): Promise<Right | undefined> {
  const tool = await found(client.call('showTool', { params: { tool: 'knotwork-drills' } }))
  return tool && { ...tool, ...(await client.call('revealSecret', { params: { tool: tool.id } })) }
}

async function makeCourse(client: Client): Promise<void> {
  if (await found(client.call('showCourse', { params: { course: COURSE } }))) return
  await client.call('createCourse', {
    body: { code: COURSE.replace('-', ' '), title: 'Finding faults', categories: ['Faults'] },
  })
  const { items } = await client.call('listMembers', { params: { course: FROM }, query: { limit: 200 } })
  const of = (role: string) => items.filter((one) => one.role === role && one.state === 'active')
  const people = [...of('instructor').slice(0, 1), ...of('learner').slice(0, LEARNERS)]
  for (const { person, role } of people)
    await client.call('enrol', {
      params: { course: COURSE },
      body: { person: person.id, role },
    })
  const set = await client.call('addGroupSet', { params: { course: COURSE }, body: { name: GROUP_SET } })
  await client.call('addGroup', { params: { course: COURSE, groupSet: set.id }, body: { name: EMPTY_GROUP } })
}

async function registerFor(client: Client, { kind, title }: Fault, drills: Right, bench: Tool): Promise<Tool> {
  if (kind === 'drills')
    return client.call('registerTool', {
      body: {
        // So unlike each other that nobody takes one for another.
        name: `${title} (drills)`,
        course: COURSE,
        consumerKey: drills.consumerKey!,
        sharedSecret: drills.sharedSecret,
        launchUrl: drills.launchUrl,
        disclosure: 'name',
        features: ['scores'],
        soundingParameters: drills.soundingParameters,
        note: 'Made by `demo faults`.',
        secondReason: 'Practice in finding faults',
      },
    })
  const { origin } = new URL(bench.initiationUrl!)
  const { tool: waiting } = await client.call('inviteTool', {
    body: { address: `${origin}/register`, course: COURSE, open: true, secondReason: 'practice in finding faults' },
  })
  if (!waiting)
    throw new Failure('The practice tool did not register itself.', EXIT.refused, 'Is it running? Restart the demo.')
  const { revision } = await client.call('showTool', { params: { tool: waiting.id } })
  await client.call('approveTool', { params: { tool: waiting.id }, body: { revision, disclosure: 'name' } })
  const approved = await client.call('showTool', { params: { tool: waiting.id } })
  return client.call('changeTool', {
    params: { tool: approved.id },
    body: {
      revision: approved.revision,
      name: `${title} (bench)`,
      soundingParameters: bench.soundingParameters,
      note: 'Made by `demo faults`.',
    },
  })
}

/** Undoes what a set-up, or somebody who fixed it, has changed of a registration. */
async function setRight(client: Client, { kind }: Fault, tool: Tool, drills: Right, bench: Tool): Promise<void> {
  const { id } = tool
  if (tool.state !== 'enabled') await client.call('setToolState', { params: { tool: id }, body: { state: 'enabled' } })
  const { revision } = await client.call('showTool', { params: { tool: id } })
  const values =
    kind === 'drills'
      ? { consumerKey: drills.consumerKey!, sharedSecret: drills.sharedSecret, launchUrl: drills.launchUrl }
      : { redirectUris: bench.redirectUris, scopes: bench.scopes, keysetUrl: bench.keysetUrl }
  await client.call('changeTool', { params: { tool: id }, body: { revision, ...values } })
}

function makeAssignment(client: Client, { title, breakAssignment }: Fault, tool: Tool): Promise<Assignment> {
  return client.call('createAssignment', {
    params: { course: COURSE },
    body: {
      title,
      tool: tool.id,
      points: POINTS,
      category: 'Faults',
      documentTarget: breakAssignment?.documentTarget ?? 'frame',
      customParameters: breakAssignment?.customParameters ?? {},
      publish: true,
    },
  })
}

async function breakIt(client: Client, fault: Fault, { id }: Assignment, tool: Tool, drills: Right): Promise<void> {
  const params = { params: { assignment: id } }
  const now = await client.call('showAssignment', params)
  await client.call('changeAssignment', {
    ...params,
    body: {
      revision: now.revision,
      keepScores: true,
      documentTarget: 'frame',
      customParameters: {},
      audience: null,
      instructions: `“${fault.symptom}” (${fault.reportedBy})`,
      ...fault.breakAssignment,
    },
  })
  if (now.state === 'draft' && !fault.draft) await client.call('publishAssignment', params)
  if (now.state === 'published' && fault.draft)
    await client.call('unpublishAssignment', { ...params, body: { keepScores: true } })
  if (fault.shows) await client.call('setExpectation', { ...params, body: { contains: fault.shows } })
  if (fault.breakTool) {
    const { revision, ...right } = await client.call('showTool', { params: { tool: tool.id } })
    const values = fault.breakTool({ ...right, revision, sharedSecret: drills.sharedSecret })
    await client.call('changeTool', { params: { tool: tool.id }, body: { revision, ...defined(values) } })
  }
  if (fault.suspend) await client.call('setToolState', { params: { tool: tool.id }, body: { state: 'suspended' } })
}

/** Without what is absent: an address that a tool of the other version has none of is not sent. */
function defined<T extends object>(values: T): { [K in keyof T]?: NonNullable<T[K]> } {
  return Object.fromEntries(Object.entries(values).filter(([, value]) => value !== null && value !== undefined)) as {
    [K in keyof T]?: NonNullable<T[K]>
  }
}

/** @returns undefined when there is none */
async function found<T>(call: Promise<T>): Promise<T | undefined> {
  try {
    return await call
  } catch (error) {
    if (error instanceof ServiceRefusal && error.problem.status === 404) return undefined
    throw error
  }
}
