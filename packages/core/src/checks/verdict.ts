/** What a check comes to, the best first; `skipped` where it could not be tried. */
export const VERDICTS = ['pass', 'warn', 'fail', 'skipped'] as const
export type Verdict = (typeof VERDICTS)[number]
