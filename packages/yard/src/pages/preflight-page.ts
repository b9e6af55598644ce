import { PREFLIGHT_RULES } from '@bathyscribe/core/checks'

/** The page of all preflight rules, made from the code. */
export function preflightPage() {
  const rows = PREFLIGHT_RULES.map(
    ({ code, severity, field, demands }) => `| \`${code}\` | ${severity} | ${field} | ${demands} |`,
  )
  return `# Preflight

Made from \`packages/core/src/checks/preflight\` by \`node scripts/docs.mjs\`. Every rule is looked at while an assignment is made, when it is published, and by
\`bathyscribe assignment preflight\`. A \`fail\` stops publishing; a \`warn\` does not, and can be accepted with a reason, which is kept. A warning that says something
else later has not been accepted yet.

| rule | severity | about | what has to hold |
|---|---|---|---|
${rows.join('\n')}
`
}
