/** The host of an address, or as much of it as there is. */
export function hostOf(address: string): string {
  return URL.canParse(address) ? new URL(address).host : address.slice(0, 60)
}

/** Whether an address never leaves the machine, so that nobody reads it on the way. */
export function isThisMachine(address: string): boolean {
  return URL.canParse(address) && /^(localhost|127\.|\[::1\])/.test(new URL(address).hostname)
}
