const open: (() => unknown)[] = []

/** What a test file opened, in its hooks or tests, is closed at its end, the last first: the files of one worker share a process. */
export function closeAfterwards(close: () => unknown): void {
  open.push(close)
}

export async function closeAll(): Promise<void> {
  for (const close of open.splice(0).reverse()) await close()
}
