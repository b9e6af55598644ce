/** Whether what is sent to an address can be read on the way: it begins with http, and leaves the machine. */
export function travelsOpenly(address: string): boolean {
  if (!/^http:/i.test(address)) return false
  return !URL.canParse(address) || !/^(localhost|127\.|\[::1\])/.test(new URL(address).hostname)
}
