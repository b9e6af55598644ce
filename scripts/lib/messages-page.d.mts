export function messagesPage(
  rows: readonly { name: string; steps: readonly { room: string; name: string }[] }[],
): string
