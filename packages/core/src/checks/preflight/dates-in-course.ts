import { day, defineRule } from './rule.js'

export const datesInCourse = defineRule({
  code: 'dates_in_course',
  severity: 'warn',
  field: 'dates',
  demands: 'Its dates lie within the course.',
  judge: ({ assignment, course: { startsAt, endsAt } }) => {
    const dates = [assignment.opensAt, assignment.dueAt, assignment.closesAt].filter((one) => one !== null)
    const outside = dates.find(
      (at) =>
        (startsAt !== null && new Date(at) < new Date(startsAt)) ||
        (endsAt !== null && new Date(at) > new Date(endsAt)),
    )
    return outside === undefined ? undefined : { outside }
  },
  words: ({ outside }) => ({
    statement: `${day(outside)} lies outside of the course.`,
    remedy: 'Check the year, or change the course’s dates.',
  }),
})
