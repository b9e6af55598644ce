import { ERRORS } from '@bathyscribe/contract'

/** The page of all errors, made from the catalogue. */
export function errorsPage() {
  const rows = Object.entries(ERRORS).map(
    ([code, { status, sentence, hint }]) => `| \`${code}\` | ${status} | ${sentence} | ${hint} |`,
  )
  return `# Errors

Made from \`packages/contract/src/errors\` by \`node scripts/docs.mjs\`. The API answers them as
\`application/problem+json\` with the code, the command line prints sentence and hint, protocol endpoints answer in their own
standard's form. A code is never used again for something else.

| code | HTTP status | what it says | what to do |
|---|---|---|---|
${rows.join('\n')}
`
}
