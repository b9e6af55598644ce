/**
 * The names of cookies that a browser does not keep for a page of another site in a frame: those without `SameSite=None; Secure`
 * (RFC 6265bis section 5.5). `Partitioned` ones are kept apart by platform, which is good enough for a launch.
 */
export function cookiesLostInFrame(setCookies: readonly string[]): string[] {
  return setCookies.flatMap((line) => {
    const [pair = '', ...attributes] = line.split(';').map((part) => part.trim())
    const has = (pattern: RegExp) => attributes.some((one) => pattern.test(one))
    return has(/^samesite\s*=\s*none$/i) && has(/^secure$/i) ? [] : [pair.split('=')[0]!.trim().slice(0, 80)]
  })
}
