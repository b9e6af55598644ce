import { Refusal, type IdentityPreview, type PreviewQuery, type ShowingQuery } from '@bathyscribe/contract'
import { disclose } from '@bathyscribe/core/identity'
import { whereShown, type Showing } from '@bathyscribe/core/links'
import type { z } from 'zod'
import { teaches } from '@bathyscribe/core/identity'
import { launchParameters } from '@bathyscribe/core/lti1'
import type { CourseRecord } from '../../records/entities/courses.js'
import type { PersonRecord } from '../../records/entities/people.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import type { Link } from '../../records/statements/links.js'
import { isAdministrator, roleIn, visibleTool } from '../identity/access.js'
import type { Actor, Context } from '../context.js'
import { commonFacts } from '../launches/launch-facts.js'
import { claimsFor } from '../launches/login.js'
import { personRef } from '../identity/person-ref.js'

/** What a launch would say of one real person: exactly what the launch itself would be made of. @throws Refusal */
export async function previewIdentity(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof PreviewQuery>,
): Promise<IdentityPreview> {
  const tool = await visibleTool(context.records, actor, ref)
  const course = await courseFor(context, actor, wanted.course)
  const person = await personFor(context, course, wanted.person)
  const enrolment = await context.records.people.enrolment(course.id, person.id)
  const limited = { ...tool, disclosure: wanted.disclosure ?? tool.disclosure }
  const link = exampleLink(limited, course, person, enrolment ?? undefined)
  const facts = commonFacts(context, link)
  const sent = tool.version === '1.3' ? personClaims(context, link) : personParameters(facts)
  const seen = disclose(person, limited.disclosure)
  const known: [string, string | null, unknown][] = [
    ['given name', person.givenName, seen.givenName],
    ['family name', person.familyName, seen.familyName],
    ['full name', person.fullName, seen.fullName],
    ['email', person.email, seen.email],
    ['sourced ID', person.sourcedId, seen.sourcedId],
    ['user name', person.username, undefined],
  ]
  return {
    person: personRef(person),
    role: enrolment?.role ?? person.siteRole,
    sent,
    keptBack: known.filter(([, value, shown]) => value && shown === undefined).map(([name]) => name),
    custom: Object.entries(tool.customParameters).map(([name, given]) => ({
      name,
      given,
      sent: facts.custom[name] ?? '',
    })),
  }
}

function personParameters(facts: ReturnType<typeof commonFacts>): IdentityPreview['sent'] {
  return launchParameters({ ...facts, outcome: undefined })
    .filter(([name]) => name === 'user_id' || name === 'roles' || name.startsWith('lis_person_'))
    .map(([name, value]) => ({ name, value }))
}

function personClaims(context: Context, link: Link): IdentityPreview['sent'] {
  const claims = claimsFor(context, link, 'preview')
  const lis = claims['https://purl.imsglobal.org/spec/lti/claim/lis'] as Record<string, string> | undefined
  const all = { ...claims, ...(lis?.['person_sourcedid'] && { 'lis.person_sourcedid': lis['person_sourcedid'] }) }
  return Object.entries(all)
    .filter(
      ([name]) =>
        ['sub', 'name', 'given_name', 'family_name', 'email', 'lis.person_sourcedid'].includes(name) ||
        name.endsWith('/roles'),
    )
    .map(([name, value]) => ({
      name: name.replace(/^.*\/claim\//, ''),
      value: Array.isArray(value) ? value.join(', ') : value,
    }))
}

/** A link such as the tool would be launched by, without there being one yet. */
function exampleLink(
  tool: RegistrationRecord,
  course: CourseRecord,
  person: PersonRecord,
  enrolment: Link['enrolment'],
): Link {
  return {
    resource: {
      kind: 'assignment',
      id: 'example',
      title: 'an assignment',
      instructions: '',
      points: '0',
      state: 'published',
      audience: 'everyone',
      documentTarget: tool.documentTarget,
      launchUrl: tool.launchUrl ?? 'https://tool.example/',
      customParameters: {},
      resourceLinkId: 'example',
      opensAt: null,
      dueAt: null,
      closesAt: null,
      attempts: null,
      handedIn: 0,
      picking: null,
      tiedColumns: [],
      review: null,
      released: true,
      isFor: true,
    },
    course: { ...course, closed: false },
    registration: { ...tool, clientId: tool.clientId ?? 'example', deploymentId: 'example', secretSealed: null },
    entered: true,
    person,
    enrolment,
  }
}

async function courseFor(context: Context, actor: Actor, ref: string): Promise<CourseRecord> {
  const course = await context.records.courses.byRef(ref)
  if (!isAdministrator(actor) && !teaches(await roleIn(context.records, actor, course.id)))
    throw new Refusal('course.not_found', ref)
  return course
}

async function personFor(context: Context, course: CourseRecord, ref: string | undefined): Promise<PersonRecord> {
  if (ref === undefined) {
    const [first] = await context.records.people.ofRole(course.id, ['learner'])
    if (!first) throw new Refusal('enrolment.not_found', 'the course has no learner')
    return first
  }
  return (await context.records.people.memberByRef(course.id, ref)).person
}

/** Where a tool shows in a course, to whom and why. @throws Refusal */
export async function toolPlaces(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof ShowingQuery>,
): Promise<Showing[]> {
  const { records } = context
  const tool = await visibleTool(records, actor, ref)
  const course = await courseFor(context, actor, wanted.course)
  const [offered, menu, assignments] = await Promise.all([
    records.tools.isUsableIn(tool.id, course.id),
    records.menus.list(course.id, true),
    records.menus.usedIn(course.id, tool.id),
  ])
  return whereShown(
    {
      state: tool.state,
      offered,
      placements: tool.placements,
      menu: menu
        .filter((entry) => entry.registrationId === tool.id)
        .map((entry) => ({ ...entry, target: entry.documentTarget })),
      assignments,
    },
    wanted.role,
  )
}
