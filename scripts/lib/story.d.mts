export function runStory(folder: string, say?: (line: string) => void): Promise<number>
