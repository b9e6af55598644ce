import { USUAL_POINTS, type AssignmentDetail, type Counting, type Difference } from '@bathyscribe/contract'
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
  /** Published with the assignment when it is a draft. */
  publishUnit: boolean
  content: { picking: string; item: number } | null
}

const EMPTY: Typed = {
  title: '', tool: '', points: '', counted: true, counting: 'latest', released: true, category: null, instructions: '', documentTarget: 'frame', launchUrl: '', customParameters: {}, opensAt: '', dueAt: '',
  closesAt: '', attempts: '', audience: null, unit: null, publishUnit: false, content: null,
} // oxfmt-ignore

const WAIT_MS = 200

/** Fields that a tool may fill in. */
type Fillable = 'title' | 'points' | 'documentTarget' | 'opensAt' | 'dueAt' | 'closesAt'

/** What a kept draft of a course is called in the browser. */
const keyOf = (course: string) => `bathyscribe-draft-${course}`

function keptDraft(course: string): Partial<Typed> | null {
  return JSON.parse(localStorage.getItem(keyOf(course)) ?? 'null') as Partial<Typed> | null
}

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
  const { content, attempts, launchUrl, opensAt, dueAt, closesAt, publishUnit: _, ...rest } = wanted
  return {
    ...rest,
    points: wanted.points.trim() || (wanted.counted ? USUAL_POINTS : '0'),
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
  const kept = existingId ? null : keptDraft(course)
  const recovered = ref(kept !== null)
  if (kept) {
    Object.assign(wanted, { ...EMPTY, ...kept, ...start })
    // Who comes with another tool wants something of that one: what was picked in the earlier one is none of it.
    if (start.tool !== undefined && start.tool !== kept.tool) wanted.content = null
  }
  const filled: Partial<Record<Fillable, string>> = { documentTarget: EMPTY.documentTarget }
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
  /** Fills in what nobody has typed: what is empty, and what was filled in before and left as it was. */
  function fill(values: Partial<Record<Fillable, string | null>>) {
    for (const [name, value] of Object.entries(values) as [Fillable, string | null][]) {
      if (!value || (wanted[name] !== '' && wanted[name] !== filled[name])) continue
      filled[name] = value
      Object.assign(wanted, { [name]: value })
    }
  }
  /** Takes over what the tool says of one field. */
  function takeOver(one: Difference) {
    if (one.field.endsWith('At')) wanted[one.field as 'dueAt'] = toInput(one.offered, zone())
    else if (one.field === 'documentTarget') wanted.documentTarget = one.offered as 'frame' | 'window'
    else wanted[one.field as 'title'] = one.offered
  }
  const body = () => bodyOf(wanted, zone())
  return { wanted, recovered, revision, remarks, differences, leadsTo, load, body, fill, startOver, takeOver, forget }
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
          publishUnit: wanted.publishUnit,
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
