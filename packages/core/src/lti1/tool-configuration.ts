import { Problem } from '../result/index.js'
import { readXml, type XmlElement, type XmlProblem } from '../xml/index.js'

const CARTRIDGE = 'http://www.imsglobal.org/xsd/imslticc_v1p0'
const BLTI = 'http://www.imsglobal.org/xsd/imsbasiclti_v1p0'
const LTICM = 'http://www.imsglobal.org/xsd/imslticm_v1p0'
const LTICP = 'http://www.imsglobal.org/xsd/imslticp_v1p0'
const OURS = 'bathyscribe'
const MOST_BEYOND = 60

/** What a tool's configuration says (LTI 1.1.1 appendix B, LTI link description). Absent parts are null. */
export interface ToolConfiguration {
  title: string | null
  description: string | null
  launchUrl: string | null
  iconUrl: string | null
  customParameters: Record<string, string>
  vendor: { name: string | null; url: string | null; email: string | null }
  /** Of our own extensions: properties by name. */
  extensions: Record<string, string>
  /** Platforms whose extensions stand in it and are not read here. */
  unreadExtensions: string[]
  /** What they say, property by property, bounded. */
  beyond: { platform: string; name: string; value: string }[]
}

export type ConfigurationProblem = Problem<XmlProblem['code'] | 'configuration.not_a_cartridge'>

/** Reads a `cartridge_basiclti_link`. Prefixes are free, namespaces are not; a byte order mark is passed over. */
export function readToolConfiguration(bytes: Uint8Array): ToolConfiguration | ConfigurationProblem {
  const root = readXml(bytes)
  if (root instanceof Problem) return root
  if (root.name !== 'cartridge_basiclti_link' || root.namespace !== CARTRIDGE)
    return new Problem(
      'configuration.not_a_cartridge',
      `${root.name.slice(0, 60)} in ${root.namespace.slice(0, 120) || 'no namespace'}`,
    )
  const text = (name: string) => child(root, BLTI, name)?.text.trim() || null
  const vendor = child(root, BLTI, 'vendor')
  const all = root.children.filter((one) => one.namespace === BLTI && one.name === 'extensions')
  const others = all.filter((one) => one.attributes['platform'] !== OURS)
  const platformOf = (one: XmlElement) => (one.attributes['platform'] ?? 'unnamed').slice(0, 80)
  const ours = all.find((one) => one.attributes['platform'] === OURS)
  return {
    title: text('title'),
    description: text('description'),
    launchUrl: text('secure_launch_url') ?? text('launch_url'),
    iconUrl: text('secure_icon') ?? text('icon'),
    customParameters: properties(child(root, BLTI, 'custom')),
    vendor: {
      name: (vendor && child(vendor, LTICP, 'name')?.text.trim()) || null,
      url: (vendor && child(vendor, LTICP, 'url')?.text.trim()) || null,
      email: emailOf(vendor),
    },
    extensions: properties(ours),
    unreadExtensions: others.map(platformOf),
    beyond: others
      .flatMap((one) =>
        Object.entries(properties(one)).map(([name, value]) => ({ platform: platformOf(one), name, value })),
      )
      .slice(0, MOST_BEYOND),
  }
}

function emailOf(vendor: XmlElement | undefined): string | null {
  const contact = vendor && child(vendor, LTICP, 'contact')
  return (contact && child(contact, LTICP, 'email')?.text.trim()) || null
}

function child(element: XmlElement, namespace: string, name: string): XmlElement | undefined {
  return element.children.find((one) => one.namespace === namespace && one.name === name)
}

/** `lticm:property` elements by name; options inside options are read as `outer.inner`. */
function properties(element: XmlElement | undefined, prefix = ''): Record<string, string> {
  const read: Record<string, string> = {}
  for (const one of element?.children ?? []) {
    if (one.namespace !== LTICM) continue
    const name = `${prefix}${one.attributes['name'] ?? ''}`
    if (one.name === 'property' && one.attributes['name']) read[name] = one.text.trim()
    if (one.name === 'options') Object.assign(read, properties(one, `${name}.`))
  }
  return read
}
