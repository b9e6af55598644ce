import type { Run } from './command.mjs'

export function runStory(folder: string, say?: (line: string) => void, execute?: Run): Promise<number>
