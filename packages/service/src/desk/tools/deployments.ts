import { Refusal, type NewDeployment } from '@bathyscribe/contract'
import type { z } from 'zod'
import { violatedKey } from '../../records/database.js'
import { by, type Actor, type Context } from '../context.js'

/** Deployments of a tool with the courses they are for. */
export async function listDeployments(context: Context, toolId: string) {
  const { tools, courses } = context.records
  const all = await tools.deployments(toolId)
  const named = await courses.refs(all.flatMap((one) => one.courseId ?? []))
  return all.map(({ id, courseId, label, createdAt }) => ({
    id,
    course: named.find((one) => one.id === courseId) ?? null,
    label,
    createdAt,
  }))
}

/** Gives one course a deployment of its own: its launches carry that identifier from now on. @throws Refusal */
export async function addDeployment(
  context: Context,
  actor: Actor,
  ref: string,
  wanted: z.output<typeof NewDeployment>,
): Promise<Awaited<ReturnType<typeof listDeployments>>[number]> {
  const { records, ids, clock } = context
  const tool = await records.tools.byRef(ref)
  if (tool.version !== '1.3') throw new Refusal('deployment.not_1_3', tool.slug)
  const course = await records.courses.byRef(wanted.course)
  const deployment = {
    id: ids.next(),
    registrationId: tool.id,
    courseId: course.id,
    label: wanted.label || course.code,
    createdAt: clock.now(),
  }
  await records
    .transaction(async (inside) => {
      await inside.tools.insertDeployment(deployment)
      await inside.audit.add({
        at: deployment.createdAt,
        ...by(actor),
        action: 'add deployment',
        subject: `tool ${tool.slug}`,
        courseId: course.id,
        after: { deployment: deployment.id },
      })
    })
    .catch((error: unknown) => {
      throw violatedKey(error) === undefined ? error : new Refusal('deployment.exists', course.code)
    })
  const [added] = (await listDeployments(context, tool.id)).filter((one) => one.id === deployment.id)
  return added!
}
