/** The host of an address, or as much of it as there is. */
export function hostOf(address: string): string {
  return URL.canParse(address) ? new URL(address).host : address.slice(0, 60)
}
