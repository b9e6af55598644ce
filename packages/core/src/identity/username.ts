/** A user name as it is kept and looked for, however it was typed: one spelling, one account. */
export function plainUsername(typed: string): string {
  return typed.normalize('NFKC').trim().toLowerCase()
}
