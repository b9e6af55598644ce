import type { AssignmentDetail, Counting, Difference } from '@bathyscribe/contract'
import { computed, reactive, ref, watch } from 'vue'
import { call } from '../state/api'
import { useDebouncedCall } from '../state/debounced-call'
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

/** What a kept draft of a course is called in the browser. */
const keyOf = (course: string) => `bathyscribe-draft-${course}`

/** What stands in the form of an assignment that is there already. */
function typedOf(one: AssignmentDetail): Partial<Typed> {
  const { title, points, counted, counting, released, instructions, documentTarget, customParameters } = one
  return {
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
  } // oxfmt-ignore
}

/** The fields as a call takes them. @param zone of the course, in which its dates are typed */
export function bodyOf(wanted: Typed, zone: string) {
  const { content, attempts, launchUrl, opensAt, dueAt, closesAt, ...rest } = wanted
  return {
    ...rest,
    points: wanted.counted ? wanted.points.trim() : wanted.points.trim() || '0',
    launchUrl: launchUrl || null,
    opensAt: fromInput(opensAt, zone),
    dueAt: fromInput(dueAt, zone),
    closesAt: fromInput(closesAt, zone),
    attempts: /^\d{1,3}$/.test(attempts.trim()) && Number(attempts) > 0 ? Number(attempts) : null,
    ...(content && { content }),
  }
}

/** An assignment being made or changed: what is typed, kept over a closed browser, with preflight beside it all the time. */
export function useDraft(
  course: string,
  existingId: string | undefined,
  start: Partial<Typed>,
  /** Of the course, in which its dates are typed. */
  zone: () => string,
) {
  const wanted = reactive<Typed>({ ...structuredClone(EMPTY), ...start })
  const kept = existingId ? null : localStorage.getItem(keyOf(course))
  const recovered = ref(kept !== null)
  if (kept) Object.assign(wanted, { ...EMPTY, ...(JSON.parse(kept) as Partial<Typed>), ...start })
  if (!existingId) watch(wanted, () => localStorage.setItem(keyOf(course), JSON.stringify(wanted)), { immediate: true })
  const revision = ref(0)
  const { remarks, differences, leadsTo } = usePreflight(course, existingId, wanted, zone)

  function load(one: AssignmentDetail) {
    if (revision.value > 0) return
    Object.assign(wanted, typedOf(one))
    revision.value = one.revision
  }
  const forget = () => localStorage.removeItem(keyOf(course))
  function startOver() {
    Object.assign(wanted, structuredClone(EMPTY))
    forget()
    recovered.value = false
  }
  /** Takes over what the tool says of one field. */
  function takeOver(one: Difference) {
    if (one.field.endsWith('At')) wanted[one.field as 'dueAt'] = toInput(one.offered, zone())
    else if (one.field === 'documentTarget') wanted.documentTarget = one.offered as 'frame' | 'window'
    else wanted[one.field as 'title'] = one.offered
  }
  const body = () => bodyOf(wanted, zone())
  return { wanted, recovered, revision, remarks, differences, leadsTo, load, body, startOver, takeOver, forget }
}

/** What preflight says of what is typed. */
function usePreflight(course: string, assignment: string | undefined, wanted: Typed, zone: () => string) {
  const { answer } = useDebouncedCall({
    on: [() => ({ ...wanted }), zone],
    waitMs: WAIT_MS,
    immediate: true,
    // While something is typed that is nothing yet, what was said before stays.
    keeps: true,
    ask: () => {
      const fields = bodyOf(wanted, zone())
      return call('preflightAssignment', {
        params: { course },
        body: {
          ...fields,
          points: /^\d{1,6}(\.\d{1,4})?$/.test(fields.points) ? fields.points : '0',
          tool: wanted.tool || undefined,
          title: wanted.title || undefined,
          // As it would be published: that is what preflight is for.
          publish: true,
          ...(assignment && { assignment }),
        },
      })
    },
  })
  return {
    remarks: computed(() => answer.value?.remarks ?? []),
    leadsTo: computed(() => answer.value?.effectiveLaunchUrl ?? null),
    differences: computed(() =>
      (answer.value?.differences ?? []).filter((one) => one.field !== 'points' || wanted.points !== one.offered),
    ),
  }
}
