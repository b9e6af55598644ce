import { sentenceOf, type Refusal } from '@bathyscribe/contract'
import type { Link } from '../../records/statements/links.js'
import type { MessageToWrite } from '../../records/statements/messages.js'
import { maskParameters } from '../../wire/mask.js'
import type { Context } from '../context.js'

/** The parts of a wire entry that every message about a link has. */
export function launchEntry(
  context: Context,
  link: Link,
  sent: { url: string; fields: readonly (readonly [string, string])[] } | undefined,
  part: Pick<MessageToWrite, 'kind' | 'outcome' | 'statement' | 'durationMs'> & Partial<MessageToWrite>,
): MessageToWrite {
  return {
    at: context.clock.now(),
    direction: 'sent',
    code: null,
    detail: null,
    ...entryOfLink(link),
    soundingId: null,
    request: {
      method: 'POST',
      url: sent?.url ?? link.resource.launchUrl ?? '',
      ...(sent && { parameters: maskParameters(sent.fields) }),
    },
    response: null,
    ...part,
  }
}

/** Whose an entry is and what it is about, where that is a link and a person. */
export function entryOfLink(link: Link) {
  return {
    registrationId: link.registration.id,
    courseId: link.course.id,
    ...placeOf(link),
    personId: link.person.id,
  }
}

export function placeOf({ resource: { kind, id } }: Pick<Link, 'resource'>) {
  return {
    assignmentId: kind === 'assignment' ? id : null,
    menuEntryId: kind === 'menu' ? id : null,
    unitItemId: kind === 'item' ? id : null,
    pickingId: kind === 'picker' ? id : null,
  }
}

/** What kind of message opens a link. */
export function openingKind({ resource }: Pick<Link, 'resource'>): 'launch' | 'picker' {
  return resource.kind === 'picker' ? 'picker' : 'launch'
}

/** What open pages hear of a link that something happened to. */
export function launchChange(link: Link, kind: 'launch' | 'refusal') {
  const { courseId, assignmentId, personId } = entryOfLink(link)
  return { kind, courseId, assignmentId, personId }
}

export function publishLaunch(context: Context, link: Link, kind: 'launch' | 'refusal'): void {
  context.changes.publish(launchChange(link, kind))
}

/** A launch that a person may not begin leaves an entry, too. @throws the refusal, once its entry stands */
export async function refuseLaunch(context: Context, link: Link, refusal: Refusal, started: number): Promise<never> {
  await context.statements.writeMessage(
    launchEntry(context, link, undefined, {
      kind: openingKind(link),
      outcome: 'refused',
      code: refusal.code,
      detail: refusal.detail ?? null,
      statement: sentenceOf(refusal),
      durationMs: performance.now() - started,
    }),
  )
  publishLaunch(context, link, 'refusal')
  throw refusal
}
