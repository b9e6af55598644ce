import type { Hindrance } from '../probes/hindrance.js'

/** What answered, and by which status. */
export type Hindered = { what: Hindrance; status: number }

export const ASK_SUPPORT = 'Ask the tool’s support; the wire entry has the time and what was sent.'
const NEVER_CAME = 'it never came to judge the launch.'

/** What answered in the place of a tool, in words. By its words and forms it is known only likely; by its status for certain. */
export function hindered({ what, status }: Hindered): { cause: string; remedy: string } {
  switch (what) {
    case 'too_many':
      return {
        cause: `The tool’s server answers ${status}, too many requests: ${NEVER_CAME}`,
        remedy: 'Wait some minutes and try again; if it stays so, ask the tool’s support how many launches it takes.',
      }
    case 'firewall':
      return {
        cause: `What answers ${status} reads like a firewall before the tool: most likely ${NEVER_CAME}`,
        remedy:
          'Have whoever runs the tool’s server let through what this server sends; the wire entry has the time, and what was answered.',
      }
    case 'maintenance':
      return {
        cause: `What answers ${status} reads like a page of maintenance: most likely ${NEVER_CAME}`,
        remedy: 'Try again when the maintenance is over; the tool’s support knows until when it takes.',
      }
    case 'sign_in':
      return {
        cause: `The tool answers ${status} with a page to sign in, whatever key and secret: the address may be that of its own sign-in, which takes no launches.`,
        remedy:
          'Compare the launch address with the one that the tool’s end shows for LTI: it must be exactly the same.',
      }
    case 'consent':
      return {
        cause: `The tool leads to a page where somebody has to agree first (${status}), whatever key and secret.`,
        remedy: 'Open the link yourself and agree; or have the tool’s support agree for everybody.',
      }
    case 'no_answer':
      return {
        cause:
          'The tool stopped answering while it was sent launches to compare, so that its answers do not tell what it objects to.',
        remedy: 'Try again; if it stays so, ask the tool’s support whether it takes several launches in a row.',
      }
    case 'server_error':
      return { cause: `The tool’s own server failed with ${status}: ${NEVER_CAME}`, remedy: ASK_SUPPORT }
  }
}
