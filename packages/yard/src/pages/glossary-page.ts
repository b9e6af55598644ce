import { GLOSSARY, type GlossaryEntry } from '@bathyscribe/contract'

const row = ({ word, means, standards = [], also = [] }: GlossaryEntry) =>
  `| ${word} | ${means} | ${standards.join(', ')} | ${also.join(', ')} |`

/** The page of our words, made from the glossary. */
export function glossaryPage(): string {
  const parts = GLOSSARY.map(
    ({ part, entries }) => `## ${part}

| word | what it means | in the standards | in mails of vendors |
|---|---|---|---|
${entries.map(row).join('\n')}`,
  )
  return `# Glossary

Made from \`packages/contract/src/glossary.ts\` by \`node scripts/docs.mjs\`. The console shows the same at \`?\`.

${parts.join('\n\n')}
`
}
