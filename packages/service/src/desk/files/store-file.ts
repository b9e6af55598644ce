import { percentDecoded } from '@bathyscribe/core/text'
import { Refusal } from '@bathyscribe/contract'
import type { CourseFileRecord } from '../../records/entities/content.js'
import { by, type Actor, type Context } from '../context.js'
import { cleanFileName } from './file-store.js'

/** Keeps an uploaded file in a course. @throws Refusal; nothing is left of a file that did not arrive whole */
export async function uploadFile(
  context: Context,
  actor: Actor,
  courseId: string,
  upload: { name: string; chunks: AsyncIterable<Buffer> },
): Promise<CourseFileRecord> {
  const file = await toRecord(context, { courseId, personId: actor.id, ...upload })
  await context.records.transaction(async (records) => {
    await records.files.requireRoom(courseId, file.bytes, roomOf(context))
    await records.files.insert(file)
    await records.audit.add({
      at: file.createdAt,
      ...by(actor),
      action: 'upload file',
      subject: `file ${file.name}`,
      courseId,
      after: { name: file.name, bytes: file.bytes, mediaType: file.mediaType },
    })
  })
  context.changes.publish({ kind: 'files', courseId })
  return file
}

/** Fetches a file that a tool offers; it is stored, and its record is still to be inserted. @throws Refusal */
export async function fetchFile(
  context: Context,
  wanted: {
    courseId: string
    personId: string
    url: string
    name: string
    /** Of what came with it. */
    bytesBefore: number
  },
): Promise<CourseFileRecord> {
  const { url } = wanted
  const name = wanted.name || percentDecoded(new URL(url).pathname.split('/').at(-1) ?? '')
  const { bytes } = await context.outgoing.fetchBytes(new URL(url), context.settings.fileMegabytes * 1_048_576)
  await context.records.files.requireRoom(wanted.courseId, wanted.bytesBefore + bytes.length, roomOf(context))
  return toRecord(context, { ...wanted, name, chunks: once(bytes) })
}

const roomOf = ({ settings }: Context) => settings.courseMegabytes * 1_048_576

async function toRecord(
  { files, ids, clock }: Context,
  wanted: { courseId: string; personId: string; name: string; chunks: AsyncIterable<Buffer> },
): Promise<CourseFileRecord> {
  const name = cleanFileName(wanted.name)
  return {
    id: ids.next(),
    courseId: wanted.courseId,
    name,
    ...(await files.store(wanted.chunks, name)),
    personId: wanted.personId,
    createdAt: clock.now(),
  }
}

/** Takes a file away that is used nowhere; a content that no file has any more goes within hours. @throws Refusal */
export async function removeFile(context: Context, actor: Actor, courseId: string, id: string): Promise<void> {
  const file = await context.records.files.show(courseId, id)
  if (file.uses > 0) throw new Refusal('file.in_use', `${file.uses} places`)
  await context.records.transaction(async (records) => {
    await records.files.remove(id)
    await records.audit.add({
      at: context.clock.now(),
      ...by(actor),
      action: 'remove file',
      subject: `file ${file.name}`,
      courseId,
      before: { name: file.name, bytes: file.bytes },
    })
  })
  context.changes.publish({ kind: 'files', courseId })
}

async function* once(bytes: Buffer): AsyncGenerator<Buffer> {
  yield bytes
}
