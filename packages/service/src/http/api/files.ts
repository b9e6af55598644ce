import multipart from '@fastify/multipart'
import { instructing, member, Refusal } from '@bathyscribe/contract'
import type { FastifyInstance, FastifyReply } from 'fastify'
import type { Context } from '../../desk/context.js'
import { readFileLink } from '../../desk/files/file-links.js'
import { uploadFile } from '../../desk/files/store-file.js'
import type { CourseFileRecord } from '../../records/entities/content.js'
import { admit } from '../caller.js'
import { fileView } from './views/content.js'
import { limited } from './routes.js'

/** Files of one person: more than a course that is moved here by hand, far less than a disk can be kept busy with by sending and deleting. */
const UPLOADS_PER_HOUR = 600

/** What browsers show by themselves and can do no harm with. Everything else is saved. */
const SHOWN = /^(image\/(png|jpeg|gif|webp)|application\/pdf|text\/plain|audio\/.*|video\/.*)$/

/** Files travel as they are, not as JSON: their upload and their reading stand beside the table of calls. */
export async function registerFiles(app: FastifyInstance, context: Context): Promise<void> {
  await app.register(async (scope) => {
    await scope.register(multipart, {
      limits: { files: 1, fields: 5, fileSize: context.settings.fileMegabytes * 1_048_576 + 1, parts: 6 },
    })
    scope.post<{ Params: { course: string } }>(
      '/api/courses/:course/files',
      {
        schema: { tags: ['files'], summary: 'Uploads a file as multipart/form-data', operationId: 'uploadFile' },
        bodyLimit: context.settings.fileMegabytes * 1_048_576 + 65_536,
        config: { rateLimit: limited('uploadFile', instructing, UPLOADS_PER_HOUR, '1 hour') },
        onRequest: async (request, reply) => {
          request.caller = await admit(app, context, instructing, request, reply)
        },
      },
      async (request, reply) => {
        const caller = request.caller!
        if (!request.isMultipart()) throw new Refusal('file.none_sent')
        const part = await request.file().catch((cause: unknown) => {
          throw new Refusal('file.cut_off', undefined, undefined, { cause })
        })
        if (!part) throw new Refusal('file.none_sent')
        const file = await uploadFile(context, caller.actor, caller.course.id, {
          name: part.filename,
          chunks: whole(part.file),
        })
        return reply.code(201).send(fileView(await context.records.files.show(caller.course.id, file.id)))
      },
    )
  })

  app.get<{ Params: { course: string; file: string } }>(
    '/api/courses/:course/files/:file/content',
    { schema: { tags: ['files'], summary: 'Reads a file', operationId: 'readFile' } },
    async (request, reply) => {
      const caller = await admit(app, context, member, request, reply)
      const file = await context.records.files.show(caller.course.id, request.params.file)
      if (!caller.teaching && !(await context.records.files.isShown(caller.course.id, file.id)))
        throw new Refusal('file.not_found', file.id)
      return sendFile(context, reply, file)
    },
  )
}

/** The signed addresses by which tools fetch files. They open one file, for some minutes, for whoever holds them. */
export function registerFileLinks(app: FastifyInstance, context: Context): void {
  app.get<{ Params: { token: string } }>('/lti/files/:token', { schema: { hide: true } }, async (request, reply) => {
    const id = readFileLink(context, request.params.token)
    const file = id === undefined ? null : await context.records.files.byId(id)
    if (!file) throw new Refusal('file.link_unknown')
    return sendFile(context, reply, file)
  })
}

/** @throws Refusal when the sender stopped in the middle */
async function* whole(file: AsyncIterable<Buffer> & { truncated?: boolean }): AsyncGenerator<Buffer> {
  try {
    yield* file
  } catch (cause) {
    throw new Refusal('file.cut_off', undefined, undefined, { cause })
  }
  if (file.truncated) throw new Refusal('file.too_large')
}

async function sendFile(context: Context, reply: FastifyReply, file: CourseFileRecord): Promise<FastifyReply> {
  const { stream, bytes } = await context.files.read(file.contentKey)
  const plain = file.name.replace(/[^\x20-\x7e]|["\\%]/g, '_')
  return reply
    .header('content-type', file.mediaType === 'text/plain' ? 'text/plain; charset=utf-8' : file.mediaType)
    .header('content-length', bytes)
    .header(
      'content-disposition',
      `${SHOWN.test(file.mediaType) ? 'inline' : 'attachment'}; filename="${plain}"; filename*=UTF-8''${encodeURIComponent(file.name)}`,
    )
    .header('x-content-type-options', 'nosniff')
    .header(
      'content-security-policy',
      "default-src 'none'; img-src 'self'; media-src 'self'; style-src 'unsafe-inline'; sandbox",
    )
    .header('cache-control', 'private, max-age=300')
    .send(stream)
}
