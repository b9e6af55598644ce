/** What a command printed, and what it ended with. */
export interface Done {
  status: number | null
  stdout: string
  stderr: string
}
/** Runs one command as somebody whose sign-in is kept at `home`. */
export type Run = (
  as: { url: string; home: string },
  args: string[],
  input?: string,
  environment?: NodeJS.ProcessEnv,
) => Promise<Done>
export function atHome(home: string, environment?: NodeJS.ProcessEnv): NodeJS.ProcessEnv
export const processOf: Run
