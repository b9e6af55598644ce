import { writeTable } from '../formats/table.js'
import { shown } from '../scores/points.js'

/** One column with its course, as a student information system knows it. */
export interface LineItemFacts {
  id: string
  title: string
  points: string
  dueAt: string | null
  changedAt: string
  category: { id: string; title: string; weight: string | null } | null
  /** Sourced identifier of the course's section. */
  classId: string
}
/** One result. */
export interface ResultFacts {
  id: string
  lineItemId: string
  /** Sourced identifier of the learner. */
  studentId: string
  points: string | null
  exempt: boolean
  comment: string | null
  at: string
}

/** Every score goes on as points; the scale says so (OneRoster 1.2 Gradebook, section 4.13). */
export const POINTS_SCALE = { id: 'points', title: 'Points' } as const
/** Decimals that leave the house: exact values are longer only where a division does not end. */
const DECIMALS = 6

type Json = Record<string, unknown>
const ref = (kind: string, plural: string, id: string) => ({ href: `/${plural}/${id}`, sourcedId: id, type: kind })

export function scoreScaleJson(classId: string, changedAt: string): Json {
  return {
    sourcedId: POINTS_SCALE.id,
    status: 'active',
    dateLastModified: changedAt,
    title: POINTS_SCALE.title,
    type: 'points',
    class: ref('class', 'classes', classId),
    scoreScaleValue: [{ itemValueLHS: '0', itemValueRHS: '100000' }],
  }
}

export function categoryJson(category: NonNullable<LineItemFacts['category']>, changedAt: string): Json {
  return {
    sourcedId: category.id,
    status: 'active',
    dateLastModified: changedAt,
    title: category.title,
    ...(category.weight !== null && { weight: Number(category.weight) }),
  }
}

/** A column as OneRoster 1.2 has it (Gradebook service, section 4.7). */
export function lineItemJson(column: LineItemFacts): Json {
  return {
    sourcedId: column.id,
    status: 'active',
    dateLastModified: column.changedAt,
    title: column.title,
    assignDate: column.changedAt,
    dueDate: column.dueAt ?? column.changedAt,
    class: ref('class', 'classes', column.classId),
    ...(column.category && { category: ref('category', 'categories', column.category.id) }),
    scoreScale: ref('scoreScale', 'scoreScales', POINTS_SCALE.id),
    resultValueMin: 0,
    resultValueMax: Number(column.points),
  }
}

/** A result as OneRoster 1.2 has it (Gradebook service, section 4.11). */
export function resultJson(result: ResultFacts): Json {
  return {
    sourcedId: result.id,
    status: 'active',
    dateLastModified: result.at,
    lineItem: ref('lineItem', 'lineItems', result.lineItemId),
    student: ref('user', 'users', result.studentId),
    scoreScale: ref('scoreScale', 'scoreScales', POINTS_SCALE.id),
    scoreStatus: statusOf(result),
    scoreDate: result.at.slice(0, 10),
    ...(result.points !== null && !result.exempt && { score: Number(shown(result.points, DECIMALS)) }),
    ...(result.comment && { comment: result.comment }),
  }
}

function statusOf({ points, exempt }: ResultFacts): string {
  return exempt ? 'exempt' : points === null ? 'not submitted' : 'fully graded'
}

const MANIFEST_FILES = [
  'academicSessions', 'categories', 'classes', 'classResources', 'courses', 'courseResources', 'demographics', 'enrollments', 'lineItems',
  'lineItemLearningObjectiveIds', 'lineItemScoreScales', 'orgs', 'resources', 'results', 'resultLearningObjectiveIds', 'resultScoreScales', 'roles',
  'scoreScales', 'userProfiles', 'userResources', 'users',
] as const // oxfmt-ignore
const WRITTEN: readonly string[] = ['categories', 'lineItems', 'results', 'scoreScales']

/** Results as the files of OneRoster 1.2 CSV (bulk): by file name, for one archive. */
export function resultFiles(
  columns: readonly LineItemFacts[],
  results: readonly ResultFacts[],
  systemName: string,
): Record<string, string> {
  const categories = new Map(
    columns.flatMap((one) => (one.category ? [[one.category.id, { ...one.category, changedAt: one.changedAt }]] : [])),
  )
  const firstClass = columns[0]?.classId ?? ''
  return {
    'manifest.csv': writeTable(
      ['propertyName', 'value'],
      [
        ['manifest.version', '1.0'],
        ['oneroster.version', '1.2'],
        ...MANIFEST_FILES.map((name) => [`file.${name}`, WRITTEN.includes(name) ? 'bulk' : 'absent']),
        ['source.systemName', systemName],
      ],
    ),
    'categories.csv': writeTable(
      ['sourcedId', 'status', 'dateLastModified', 'title', 'weight'],
      [...categories.values()].map((one) => [one.id, 'active', one.changedAt, one.title, one.weight ?? '']),
    ),
    'scoreScales.csv': writeTable(
      [
        'sourcedId',
        'status',
        'dateLastModified',
        'title',
        'type',
        'orgSourcedId',
        'courseSourcedId',
        'classSourcedId',
        'scoreScaleValue',
      ],
      columns.length > 0
        ? [
            [
              POINTS_SCALE.id,
              'active',
              columns[0]!.changedAt,
              POINTS_SCALE.title,
              'points',
              '',
              '',
              firstClass,
              '{0:100000}',
            ],
          ]
        : [],
    ),
    'lineItems.csv': writeTable(
      [
        'sourcedId', 'status', 'dateLastModified', 'title', 'description', 'assignDate', 'dueDate', 'classSourcedId', 'categorySourcedId',
        'gradingPeriodSourcedId', 'resultValueMin', 'resultValueMax', 'schoolSourcedId',
      ], // oxfmt-ignore
      columns.map((one) => [
        one.id, 'active', one.changedAt, one.title, '', one.changedAt.slice(0, 10), (one.dueAt ?? one.changedAt).slice(0, 10), one.classId,
        one.category?.id ?? '', '', '0', one.points, '',
      ]), // oxfmt-ignore
    ),
    'results.csv': writeTable(
      [
        'sourcedId',
        'status',
        'dateLastModified',
        'lineItemSourcedId',
        'studentSourcedId',
        'scoreStatus',
        'score',
        'scoreDate',
        'comment',
      ],
      results.map((one) => [
        one.id, 'active', one.at, one.lineItemId, one.studentId, statusOf(one), one.exempt || one.points === null ? '' : shown(one.points, DECIMALS),
        one.at.slice(0, 10), one.comment ?? '',
      ]), // oxfmt-ignore
    ),
  }
}
