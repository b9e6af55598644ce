import { lookup, type LookupAddress } from 'node:dns'
import { BlockList, isIP, type LookupFunction } from 'node:net'
import { Agent, buildConnector } from 'undici'
import { Refusal } from '@bathyscribe/contract'

const PRIVATE_V4 = [
  '0.0.0.0/8', '10.0.0.0/8', '100.64.0.0/10', '127.0.0.0/8', '169.254.0.0/16', '172.16.0.0/12', '192.0.0.0/24', '192.0.2.0/24',
  '192.88.99.0/24', '192.168.0.0/16', '198.18.0.0/15', '198.51.100.0/24', '203.0.113.0/24', '224.0.0.0/4', '240.0.0.0/4',
] // oxfmt-ignore
// Everything outside global unicast, and the ranges inside it that carry an IPv4 address or document examples.
const PRIVATE_V6 = [
  '::/3',
  '4000::/2',
  '8000::/1',
  '2001::/23',
  '2001:db8::/32',
  '3fff::/20',
  '2002::/16',
  '64:ff9b::/96',
  '64:ff9b:1::/48',
]

/** Which addresses this service may call: no private ones but those that the operator allows. */
export function createGuard(allowedRanges: readonly string[]): (address: string) => boolean {
  // One list a family: a list of IPv6 ranges would match IPv4 addresses by their mapped form as well.
  const lists = (version: 4 | 6) => ({
    forbidden: toBlockList(version === 4 ? PRIVATE_V4 : PRIVATE_V6),
    allowed: toBlockList(allowedRanges.filter((range) => isIP(range.split('/')[0]!) === version)),
  })
  const byVersion = { 4: lists(4), 6: lists(6) }
  return (address) => {
    const plain = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1] ?? address
    const version = isIP(plain)
    if (version !== 4 && version !== 6) return false
    const family = version === 6 ? 'ipv6' : 'ipv4'
    return byVersion[version].allowed.check(plain, family) || !byVersion[version].forbidden.check(plain, family)
  }
}

function toBlockList(ranges: readonly string[]): BlockList {
  const list = new BlockList()
  for (const range of ranges) {
    const [address, prefix] = range.split('/') as [string, string]
    list.addSubnet(address, Number(prefix), isIP(address) === 6 ? 'ipv6' : 'ipv4')
  }
  return list
}

/** Resolves names, and gives only addresses that may be called. */
export function guardedLookup(mayCall: (address: string) => boolean): LookupFunction {
  return (hostname, options, callback) => {
    lookup(hostname, { ...options, all: true }, (error, addresses: LookupAddress[]) => {
      if (error) return callback(error, '', 0)
      const good = addresses.filter((one) => mayCall(one.address))
      if (good.length === 0) return callback(new Refusal('outgoing.forbidden_address', hostname), '', 0)
      if (options.all) return (callback as unknown as (e: null, a: LookupAddress[]) => void)(null, good)
      callback(null, good[0]!.address, good[0]!.family)
    })
  }
}

/**
 * An HTTP agent that asks the guard about the very address it is going to connect to, after the name was resolved: a name that
 * is answered differently a second time gains nothing. Literal addresses never reach `lookup`; `checkHost` is for them.
 */
export function guardedAgent(mayCall: (address: string) => boolean, timeoutMs: number): Agent {
  const connect = buildConnector({ lookup: guardedLookup(mayCall), timeout: timeoutMs })
  return new Agent({
    connect: (options, callback) =>
      connect(options, (...found) => {
        const [, socket] = found
        // What a server says when it ends the connection (“certificate required”) comes before the end itself, which would hide it.
        socket?.prependOnceListener('error', (error: Error) => socket.destroy(error))
        callback(...found)
      }),
    headersTimeout: timeoutMs,
    bodyTimeout: timeoutMs,
    maxHeaderSize: 32 * 1024,
    connections: 32,
    keepAliveTimeout: 1000,
  })
}

// Ports of services that a crafted request could be taken by for one of their own (Fetch Standard, section “Port blocking”).
const BAD_PORTS = new Set([
  1, 7, 9, 11, 13, 15, 17, 19, 20, 21, 22, 23, 25, 37, 42, 43, 53, 69, 77, 79, 87, 95, 101, 102, 103, 104, 109, 110, 111, 113, 115, 117, 119, 123, 135, 137,
  139, 143, 161, 179, 389, 427, 465, 512, 513, 514, 515, 526, 530, 531, 532, 540, 548, 554, 556, 563, 587, 601, 636, 989, 990, 993, 995, 1719, 1720, 1723,
  2049, 3659, 4045, 4190, 5060, 5061, 6000, 6566, 6665, 6666, 6667, 6668, 6669, 6679, 6697, 10080,
]) // oxfmt-ignore

/** Refuses a literal address, and a port, that may not be called. @throws Refusal */
export function checkHost(url: URL, mayCall: (address: string) => boolean): void {
  if (BAD_PORTS.has(Number(url.port))) throw new Refusal('outgoing.forbidden_port', url.port)
  const host = url.hostname.replace(/^\[|\]$/g, '')
  if (isIP(host) !== 0 && !mayCall(host)) throw new Refusal('outgoing.forbidden_address', host)
}
