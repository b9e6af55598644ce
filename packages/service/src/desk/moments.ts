/** A moment as the interface carries it, as the records keep it. */
export function toDate(iso: string | null): Date | null {
  return iso === null ? null : new Date(iso)
}
