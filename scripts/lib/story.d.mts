interface Done {
  status: number | null
  stdout: string
  stderr: string
}
export function runStory(
  folder: string,
  say?: (line: string) => void,
  execute?: (args: string[], input: string, environment: NodeJS.ProcessEnv) => Promise<Done>,
): Promise<number>
