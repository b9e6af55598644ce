import type { Diagnosis } from './cause.js'

/** A text for the tool’s support: what was found, what shows it and what is asked for. Holds no secret, for no cause does. */
export function supportLetter(
  diagnosis: Diagnosis,
  about: { tool: string; what: string; at: string | null; reference: string | null; from: string },
): string {
  const lines = [
    `About ${about.tool}: ${about.what}${about.at ? `, ${about.at}` : ''}`,
    ...(about.reference ? [`Our reference: ${about.reference}`] : []),
    '',
    diagnosis.sentence,
  ]
  for (const cause of diagnosis.causes) {
    lines.push('', ...(diagnosis.causes.length > 1 ? [cause.sentence] : []))
    for (const [name, value] of cause.evidence) lines.push(`  ${name}: ${value}`)
    if (cause.theirs) lines.push(`What we ask of you: ${cause.theirs}`)
  }
  if (diagnosis.certainty !== 'proven' && diagnosis.ruledOut.length > 0)
    lines.push('', `Tried and ruled out: ${diagnosis.ruledOut.join('; ')}.`)
  return [...lines, '', about.from].join('\n')
}
