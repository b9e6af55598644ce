/** Whether a host is this machine itself, by its name (RFC 6761 section 6.3) or its address. @param hostname as a URL has it, IPv6 in brackets */
export function isThisMachine(hostname: string): boolean {
  return hostname === 'localhost' || hostname.endsWith('.localhost') || /^127(\.\d{1,3}){3}$|^\[::1\]$/.test(hostname)
}

/** Whether what is sent to an address can be read on the way: it begins with http, and leaves the machine. */
export function travelsOpenly(address: string): boolean {
  if (!/^http:/i.test(address)) return false
  return !URL.canParse(address) || !isThisMachine(new URL(address).hostname)
}
