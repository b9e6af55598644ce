import type { AssignmentDetail, Counting, Difference, PreflightRemark } from '@bathyscribe/contract'
import { reactive, ref, watch } from 'vue'
import { call } from '../state/api'
import { fromInput, toInput } from '../state/moments'

/** What is typed into the form, in whatever order; moments as their inputs hold them. */
export interface Typed {
  title: string
  tool: string
  points: string
  counted: boolean
  counting: Counting
  released: boolean
  category: string | null
  instructions: string
  documentTarget: 'frame' | 'window'
  launchUrl: string
  customParameters: Record<string, string>
  opensAt: string
  dueAt: string
  closesAt: string
  attempts: string
  audience: { groups: string[]; people: string[] } | null
  unit: string | null
  content: { picking: string; item: number } | null
}

const EMPTY: Typed = {
  title: '', tool: '', points: '', counted: true, counting: 'latest', released: true, category: null, instructions: '', documentTarget: 'frame', launchUrl: '', customParameters: {}, opensAt: '', dueAt: '',
  closesAt: '', attempts: '', audience: null, unit: null, content: null,
} // oxfmt-ignore

const WAIT_MS = 200

/** An assignment being made or changed: what is typed, kept over a closed browser, with preflight beside it all the time. */
export function useDraft(
  course: string,
  existingId: string | undefined,
  start: Partial<Typed>,
  /** Of the course, in which its dates are typed. */
  zone: () => string,
) {
  const key = `bathyscribe-draft-${course}`
  const wanted = reactive<Typed>({ ...structuredClone(EMPTY), ...start })
  const kept = existingId ? null : localStorage.getItem(key)
  const recovered = ref(kept !== null)
  if (kept) Object.assign(wanted, { ...EMPTY, ...(JSON.parse(kept) as Partial<Typed>), ...start })
  const revision = ref(0)
  const remarks = ref<PreflightRemark[]>([])
  const differences = ref<Difference[]>([])
  const leadsTo = ref<string | null>(null)

  function load(one: AssignmentDetail) {
    if (revision.value > 0) return
    const { title, points, counted, counting, released, instructions, documentTarget, customParameters } = one
    Object.assign(wanted, {
      title, points, counted, counting, released, instructions, documentTarget, customParameters,
      tool: one.tool.slug,
      category: one.category?.name ?? null,
      launchUrl: one.launchUrl ?? '',
      opensAt: toInput(one.opensAt, one.course.timeZone),
      dueAt: toInput(one.dueAt, one.course.timeZone),
      closesAt: toInput(one.closesAt, one.course.timeZone),
      attempts: one.attempts === null ? '' : String(one.attempts),
      audience: one.audience && { groups: one.audience.groups.map((group) => group.id), people: one.audience.people.map((person) => person.id) },
      unit: one.unit?.id ?? null,
    }) // oxfmt-ignore
    revision.value = one.revision
  }

  /** The fields as a call takes them. */
  function body() {
    const { content, attempts, launchUrl, opensAt, dueAt, closesAt, ...rest } = wanted
    return {
      ...rest,
      points: wanted.counted ? wanted.points.trim() : wanted.points.trim() || '0',
      launchUrl: launchUrl || null,
      opensAt: fromInput(opensAt, zone()),
      dueAt: fromInput(dueAt, zone()),
      closesAt: fromInput(closesAt, zone()),
      attempts: /^\d{1,3}$/.test(attempts.trim()) && Number(attempts) > 0 ? Number(attempts) : null,
      ...(content && { content }),
    }
  }

  function startOver() {
    Object.assign(wanted, structuredClone(EMPTY))
    localStorage.removeItem(key)
    recovered.value = false
  }

  let timer: ReturnType<typeof setTimeout> | undefined
  let asked = 0
  watch(
    [wanted, zone],
    () => {
      if (!existingId) localStorage.setItem(key, JSON.stringify(wanted))
      clearTimeout(timer)
      timer = setTimeout(() => {
        const now = ++asked
        const fields = body()
        const points = /^\d{1,6}(\.\d{1,4})?$/.test(fields.points) ? fields.points : '0'
        call('preflightAssignment', {
          params: { course },
          body: {
            ...fields,
            points,
            tool: wanted.tool || undefined,
            title: wanted.title || undefined,
            // As it would be published: that is what preflight is for.
            publish: true,
            ...(existingId && { assignment: existingId }),
          },
        })
          .then((answer) => {
            if (now !== asked) return
            remarks.value = answer.remarks
            leadsTo.value = answer.effectiveLaunchUrl
            differences.value = answer.differences.filter(
              (one) => one.field !== 'points' || wanted.points !== one.offered,
            )
          })
          .catch(() => undefined)
      }, WAIT_MS)
    },
    { immediate: true },
  )
  /** Takes over what the tool says of one field. */
  function takeOver(one: Difference) {
    if (one.field.endsWith('At')) wanted[one.field as 'dueAt'] = toInput(one.offered, zone())
    else if (one.field === 'documentTarget') wanted.documentTarget = one.offered as 'frame' | 'window'
    else wanted[one.field as 'title'] = one.offered
  }
  const forget = () => localStorage.removeItem(key)
  return { wanted, recovered, revision, remarks, differences, leadsTo, load, body, startOver, takeOver, forget }
}
