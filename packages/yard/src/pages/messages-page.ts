const ROOMS = ['read', 'identify', 'verify', 'fresh', 'may', 'take']
const words = (name: string) => name.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)

/** The page of all messages that come in, made from the table that takes them. */
export function messagesPage(
  rows: readonly { name: string; steps: readonly { room: string; name: string }[] }[],
): string {
  const lines = rows.map(({ name, steps }) => {
    const cells = ROOMS.map((room) =>
      steps
        .filter((step) => step.room === room)
        .map((step) => words(step.name))
        .join(', '),
    )
    return `| ${[name, ...cells].join(' | ')} |`
  })
  return `# What each message goes through

Made from \`packages/service/src/inbound/table.ts\` by \`node scripts/docs.mjs\`. Each message passes the rooms from left to right. The first step that refuses ends its way: it is answered in
the message's own form, and its wire entry says why. Entry, nonce and effect are written in one statement; nothing is answered before that.

- _read_: what it says, as far as it can be read
- _identify_: whose it is, and what it is about, by what it says itself
- _verify_: that it is from whom it says
- _fresh_: by what it is good once only; a picker's answer is used up in the transaction that keeps what was chosen
- _may_: that who sent it may have done what it asks
- _take_: what it does

| message | ${ROOMS.join(' | ')} |
|---|---|---|---|---|---|---|
${lines.join('\n')}
`
}
