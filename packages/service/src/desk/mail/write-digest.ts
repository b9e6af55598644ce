import { headlineInWords } from '@bathyscribe/contract'
import type { FoundWatch } from '../watch/read-watch.js'

/** A digest in words, and what it is about: two with the same matters are the same news. */
export interface Digest {
  subject: string
  text: string
  matters: string[]
}

interface Section {
  title: string
  /** Each with the name by which it is known again. */
  lines: { matter: string; text: string }[]
  page: string
}

const LINES_SHOWN = 8

/** What of Watch needs somebody, as a message of plain text. @returns undefined when nothing does */
export function writeDigest(watch: FoundWatch, to: { fullName: string; publicUrl: string }): Digest | undefined {
  const sections = sectionsOf(watch).filter(({ lines }) => lines.length > 0)
  const matters = sections.flatMap(({ lines }) => lines.map(({ matter }) => matter))
  if (matters.length === 0) return undefined
  const body = sections.map(({ title, lines, page }) =>
    [
      title,
      ...lines.slice(0, LINES_SHOWN).map(({ text }) => `  - ${oneLine(text)}`),
      ...(lines.length > LINES_SHOWN ? [`  … and ${lines.length - LINES_SHOWN} more`] : []),
      `  ${to.publicUrl}${page}`,
    ].join('\n'),
  )
  return {
    subject:
      matters.length === 1 ? 'Bathyscribe: one matter needs you' : `Bathyscribe: ${matters.length} matters need you`,
    text: `${[
      `${oneLine(to.fullName)}, this needs you:`,
      ...body,
      `You have this because you asked for it. How often it comes, or that it stops: ${to.publicUrl}/account`,
    ].join('\n\n')}\n`,
    matters,
  }
}

function sectionsOf({ approvals, scores, openCases, soundings, unproven }: FoundWatch): Section[] {
  return [
    {
      title: 'Registrations that wait for approval',
      page: '/tools',
      lines: approvals.map(({ tool, course }) => ({
        matter: `approval ${tool.id}`,
        text: `${tool.name}${course ? ` (${course.code})` : ''}`,
      })),
    },
    {
      title: 'Scores refused in the last day',
      page: '/wire?outcome=refused',
      lines: scores.refused.map(({ code, sentence, tool, count }) => ({
        matter: `refused ${code} ${tool?.id ?? ''}`,
        text: `${count} from ${tool?.name ?? 'a tool that is not known'}: ${sentence}`,
      })),
    },
    {
      title: 'Past due, with learners who worked but have no score',
      page: '/watch',
      lines: scores.unscored.map(({ assignment, course, tool, learners }) => ({
        matter: `unscored ${assignment.id} ${learners}`,
        text: `${course.code} ${assignment.title} (${tool.name}): ${learners} ${learners === 1 ? 'learner' : 'learners'}`,
      })),
    },
    {
      title: 'Learners whose score is missing',
      page: '/cases',
      lines: openCases > 0 ? [{ matter: `cases ${openCases}`, text: `${openCases} to look at` }] : [],
    },
    {
      title: 'Tools that people still open, but that no longer send anything',
      page: '/watch',
      lines: scores.silent.map(({ tool, course }) => ({
        matter: `silent ${tool.id} ${course.id}`,
        text: `${tool.name} in ${course.code}`,
      })),
    },
    {
      title: 'Results that the records office does not have yet',
      page: '/watch',
      lines:
        scores.office && scores.office.waiting + scores.office.refused > 0
          ? [
              {
                matter: `office ${scores.office.refused}`,
                text: `${scores.office.waiting} wait for more than an hour, ${scores.office.refused} were refused`,
              },
            ]
          : [],
    },
    {
      title: 'Soundings that did not pass',
      page: '/soundings',
      lines: soundings.map(({ id, course, assignment, headline, verdict }) => ({
        matter: `sounding ${id}`,
        text: `${course.code} ${assignment.title}: ${headlineInWords(headline) ?? verdict ?? ''}`,
      })),
    },
    {
      title: 'Published, but not proven',
      page: '/watch',
      lines: unproven.map(({ id, course, title, nextAct }) => ({
        matter: `unproven ${id} ${nextAct}`,
        text: `${course.code} ${title}: ${nextAct}`,
      })),
    },
  ]
}

/** What tools and people wrote stays within its line of a message. */
export function oneLine(text: string): string {
  return text.replace(/\s+/g, ' ').slice(0, 300)
}
