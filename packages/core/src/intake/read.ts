import { Problem } from '../result/index.js'
import { readToolConfiguration } from '../lti1/tool-configuration.js'
import { readToolMetadata, type ToolMetadata } from '../lti13/tool-metadata.js'
import { beyondOf, MOST_BEYOND, scopesIn, withoutScopes, type AskedScope, type Beyond } from './beyond.js'
import { cleanValue } from './clean.js'
import { FIELD_WORDS, fieldOf, isToken, type Field } from './fields.js'
import { readJson } from './json.js'
import type { Handover, IntakeRemark, Recognised } from './handover.js'
import { judge } from './judge.js'
import { contradictions, pairsOf } from './pairs.js'
import { addressIn, readLabelled, type RawValue } from './labelled.js'

export const HANDOVER_MAX_CHARACTERS = 200_000

/** Reads whatever a vendor handed over: text, an address, XML or JSON. Never throws for what stands in it. */
export function readHandover(input: string, now: Date): Handover {
  const text = input.slice(0, HANDOVER_MAX_CHARACTERS)
  const start = text.replace(/^[\ufeff\s]+/, '')
  if (start === '') return finish({ kind: 'nothing' }, '', now)
  if (isXml(start)) return readXmlHandover(start, now)
  if (start.startsWith('{') || start.startsWith('[')) return readJsonHandover(start, now)
  const only = cleanValue(start).value
  if (/^https?:\/\/\S+$/i.test(only)) return readAddress(only, now)
  return readText(text, now)
}

/** Markup of a page is text that was copied along; anything else in angle brackets is meant as XML. */
function isXml(start: string): boolean {
  return (
    /^<(?:\?xml|!DOCTYPE|!--|[\w.-]+[\s:/>])/i.test(start.slice(0, 200)) &&
    !/^<(?:https?:|(?:html|body|div|p|b|i|strong|em|span|table|tr|td|ul|li|dl|dt|h\d|a|br|code|pre|!doctype html)\b)/i.test(
      start,
    )
  )
}

/** Reads what an address answered: a configuration in XML or JSON, or a page that is neither. */
export function readFetched(address: string, body: string, now: Date): Handover {
  const start = body.replace(/^[\ufeff\s]+/, '')
  const read = start.startsWith('{') || start.startsWith('[') || isXml(start) ? readHandover(start, now) : undefined
  return read ?? { ...readAddress(address, now), follow: { address, as: 'unknown' } }
}

function readAddress(address: string, now: Date): Handover {
  const [found] = readLabelled(address)
  const field = found?.field ?? 'launchUrl'
  const as = field === 'configurationUrl' ? 'configuration' : field === 'registrationUrl' ? 'registration' : 'unknown'
  return finish(
    { kind: 'address', values: [{ field, raw: address, line: 1, label: null }], follow: { address, as } },
    '',
    now,
  )
}

function readText(text: string, now: Date): Handover {
  const values = readLabelled(withoutScopes(text))
  const named = values.some((one) => one.field === 'name') ? [] : nameInText(text)
  return finish({ kind: 'text', values: [...values, ...named] }, text, now)
}

/** A mail's subject, or a phrase such as “credentials for Knotwork Drills”, names the tool where no label does. */
function nameInText(text: string): RawValue[] {
  const lines = text.split('\n').slice(0, 200)
  for (const pattern of [
    /^subject:.*?\b(?:for|of|to)\s(?:the |your )?(\S.{1,59})$/i,
    /\b(?:credentials|configuration|settings|details|setup|set-up|key and secret) (?:for|of) (?:the |your )?([\p{Lu}][\p{L}\p{N}’' -]{1,50}?)(?:[.,:;!]|$| are| is| in )/u,
  ])
    for (const [i, line] of lines.entries()) {
      const name = pattern.exec(line.trim().replace(/\s+/g, ' '))?.[1]
      if (name) return [{ field: 'name', raw: name, line: i + 1, label: null }]
    }
  return []
}

function readXmlHandover(text: string, now: Date): Handover {
  const read = readToolConfiguration(new TextEncoder().encode(text))
  if (read instanceof Problem)
    return finish(
      {
        kind: 'xml',
        remarks: [unreadable(`The XML cannot be read as a tool configuration: ${read.code} (${read.detail}).`)],
      },
      '',
      now,
    )
  const part = (field: Field, value: string | null, label: string): RawValue[] =>
    value === null ? [] : [{ field, raw: value, line: 0, label }]
  const values = [
    ...part('name', read.title, 'title'),
    ...part('description', read.description, 'description'),
    ...part('launchUrl', read.launchUrl, 'launch_url'),
    ...part('iconUrl', read.iconUrl, 'icon'),
    ...part('contact', read.vendor.email, 'vendor contact'),
    ...part('consumerKey', read.extensions['consumer_key'] ?? null, 'extensions'),
  ]
  const remarks: IntakeRemark[] =
    read.unreadExtensions.length === 0
      ? []
      : [
          {
            code: 'unread_extensions',
            field: null,
            verdict: 'warn',
            statement: `It holds extensions for other platforms (${read.unreadExtensions.join(', ')}). Nothing of them is taken by itself.`,
            remedy: 'Look at what they say, and take over what is wanted.',
          },
        ]
  const beyond = read.beyond.map((one) => beyondOf(`extension for ${one.platform}`, one.name, one.value))
  return finish(
    { kind: 'xml', values, remarks, customParameters: read.customParameters, version: '1.1', beyond },
    '',
    now,
  )
}

function readJsonHandover(text: string, now: Date): Handover {
  const read = readJson(text)
  if (read instanceof Problem)
    return finish(
      { kind: 'json', remarks: [unreadable(`The JSON cannot be read: ${read.code} (${read.detail}).`)] },
      '',
      now,
    )
  const object = read.value as Record<string, unknown>
  if (isMetadata(object)) return readMetadata(object, now)
  return finish({ kind: 'json', values: flatten(object).slice(0, 200) }, '', now)
}

function isMetadata(value: unknown): boolean {
  return (
    typeof value === 'object' &&
    value !== null &&
    ('initiate_login_uri' in value || 'https://purl.imsglobal.org/spec/lti-tool-configuration' in value)
  )
}

function readMetadata(object: Record<string, unknown>, now: Date): Handover {
  const metadata = readToolMetadata(object, { strict: false })
  if (metadata instanceof Problem)
    return finish(
      {
        kind: 'json',
        version: '1.3',
        values: flatten(object),
        remarks: metadata.faults.map((fault) => unreadable(`${fault.path || 'The configuration'} ${fault.message}.`)),
      },
      '',
      now,
    )
  const part = (field: Field, value: string | null, label: string): RawValue[] =>
    value === null || value === '' ? [] : [{ field, raw: value, line: 0, label }]
  const remarks: IntakeRemark[] = []
  if (metadata.unknownScopes.length > 0)
    remarks.push({
      code: 'unknown_scopes',
      field: null,
      verdict: 'warn',
      statement: `It asks for scopes that are not given here: ${metadata.unknownScopes.join(', ').slice(0, 300)}.`,
      remedy: 'Nothing to do; what depends on them at the tool’s end will not work.',
    })
  if (metadata.unknownMessages.length > 0)
    remarks.push({
      code: 'unknown_messages',
      field: null,
      verdict: 'warn',
      statement: `It takes messages that are not sent here: ${metadata.unknownMessages.join(', ').slice(0, 300)}.`,
      remedy: 'Nothing to do.',
    })
  const values = [
    ...part('name', metadata.name, 'client_name'),
    ...part('description', metadata.description, 'description'),
    ...part('launchUrl', metadata.targetLinkUri, 'target_link_uri'),
    ...part('initiationUrl', metadata.initiationUrl, 'initiate_login_uri'),
    ...metadata.redirectUris.flatMap((one) => part('redirectUri', one, 'redirect_uris')),
    ...part('keysetUrl', metadata.keysetUrl, 'jwks_uri'),
    ...(metadata.keys.length > 0 ? part('publicKey', JSON.stringify({ keys: metadata.keys }), 'jwks') : []),
    ...part('iconUrl', metadata.iconUrl, 'logo_uri'),
    ...part('contact', metadata.contacts[0] ?? null, 'contacts'),
  ]
  return finish(
    { kind: 'json', version: '1.3', values, remarks, customParameters: metadata.customParameters, metadata },
    '',
    now,
  )
}

/** Values of any JSON by their names, whatever it is called and however deep it stands. */
function flatten(value: unknown, label = '', depth = 0): RawValue[] {
  if (depth > 8) return []
  if (typeof value === 'string' || typeof value === 'number') {
    const field = fieldOf(label)
    return field ? [{ field, raw: String(value), line: 0, label }] : []
  }
  if (Array.isArray(value)) return value.flatMap((one) => flatten(one, label, depth + 1))
  if (typeof value !== 'object' || value === null) return []
  return Object.entries(value).flatMap(([name, one]) => flatten(one, name, depth + 1))
}

interface Parts {
  kind: Handover['kind']
  values?: RawValue[]
  remarks?: IntakeRemark[]
  customParameters?: Record<string, string>
  version?: Handover['version']
  follow?: Handover['follow']
  metadata?: ToolMetadata
  beyond?: Beyond[]
}

function finish(parts: Parts, text: string, now: Date): Handover {
  const all = (parts.values ?? []).map(recognise).filter((one) => one.value !== '')
  const pairs = pairsOf(all, text)
  const isSaid = ({ field }: Recognised) => field === 'privacy' || field === 'placement'
  const said = all.filter(isSaid)
  const recognised = distinct(all).filter((one) => !isSaid(one))
  const custom = { ...parts.customParameters, ...customIn(recognised) }
  const remarks = [
    ...(parts.remarks ?? []),
    ...judge(distinct(all, true), pairs, text, now),
    ...contradictions(all, pairs),
  ]
  const has = (field: Field) => recognised.some((one) => one.field === field)
  const is13 =
    has('initiationUrl') || has('keysetUrl') || has('registrationUrl') || has('redirectUri') || has('clientId')
  const is11 = has('consumerKey') || has('sharedSecret')
  const version = parts.version ?? (is13 ? '1.3' : is11 ? '1.1' : null)
  if (is13 && is11)
    remarks.push({
      code: 'both_versions',
      field: null,
      verdict: 'warn',
      statement: 'It holds both LTI 1.3 addresses and a key with a secret.',
      remedy:
        'It will be registered by LTI 1.3; the pair is kept with it, so that the tool knows earlier accounts again.',
    })
  if (recognised.length === 0 && remarks.length === 0)
    remarks.push({
      code: 'nothing_recognised',
      field: null,
      verdict: 'fail',
      statement: 'Nothing in it was recognised.',
      remedy:
        'Put the name of each value before it, such as “Consumer key:”, or give the tool’s configuration address.',
    })
  const follow = parts.follow ?? followOf(recognised)
  const isReadable = follow === null && remarks.every((one) => one.code !== 'unreadable')
  const scopes = version === '1.3' && isReadable ? scopesAsked(parts.metadata, text) : []
  if (scopes.some((one) => one.because === 'usual')) remarks.push(USUAL)
  return {
    kind: parts.kind,
    version,
    recognised,
    remarks,
    missing: follow && follow.as !== 'unknown' ? [] : missingFrom(version, has),
    pairs: pairs.length > 1 ? pairs : [],
    customParameters: custom,
    proposedName: recognised.some((one) => one.field === 'name') ? null : nameOfHost(recognised),
    scopes,
    beyond: [
      ...said.map((one) => beyondOf(one.source, FIELD_WORDS[one.field], one.value)),
      ...(parts.beyond ?? []),
    ].slice(0, MOST_BEYOND),
    follow,
    metadata: parts.metadata ?? null,
  }
}

const USUAL: IntakeRemark = {
  code: 'usual_scopes',
  field: null,
  verdict: 'warn',
  statement:
    'It does not say what the tool may do. What is usual is proposed: its own columns, its results, sending scores.',
  remedy: 'Take away what it does not need, and add the roster only where the vendor asks for it.',
}

/** `https://lti.knot-work.example/launch` is of “Knot Work”: the part of the host that its owner chose. */
function nameOfHost(recognised: readonly Recognised[]): string | null {
  const address = recognised.find((one) => one.field === 'launchUrl' || one.field === 'initiationUrl')?.value ?? ''
  if (!URL.canParse(address)) return null
  const parts = new URL(address).hostname.split('.')
  const own = parts.at(parts.length > 2 && parts.at(-2)!.length <= 3 ? -3 : -2) ?? ''
  if (!/[a-z]{2}/.test(own)) return null
  return own
    .split('-')
    .filter((one) => one !== '')
    .map((one) => one[0]!.toUpperCase() + one.slice(1))
    .join(' ')
}

function scopesAsked(metadata: ToolMetadata | undefined, text: string): AskedScope[] {
  return metadata ? metadata.scopes.map((scope) => ({ scope, because: 'named' })) : scopesIn(text)
}

function recognise({ field, raw, line, label }: RawValue): Recognised {
  // Of descriptions and names, blanks around them say nothing about a slip of the hand.
  const cleaned = cleanValue(isToken(field) || raw !== raw.trim() ? raw.replace(/^ | $/g, '') : raw)
  const where = line > 0 ? `line ${line}` : ''
  const source = [where, label ? `“${label.slice(0, 60)}”` : line > 0 ? 'by its form' : ''].filter(Boolean).join(', ')
  return { field, value: cleaned.value, source, removed: cleaned.removed }
}

/** The first of each field; of redirect addresses every different one. With `keepPairs`, of keys and secrets, too. */
function distinct(all: readonly Recognised[], keepPairs = false): Recognised[] {
  return all.filter((one, i) => {
    const before = all.slice(0, i).filter((other) => other.field === one.field)
    return one.field === 'redirectUri' || (keepPairs && isToken(one.field))
      ? before.every((other) => other.value !== one.value)
      : before.length === 0
  })
}

function customIn(recognised: readonly Recognised[]): Record<string, string> {
  const text = recognised.find((one) => one.field === 'customParameters')?.value ?? ''
  return Object.fromEntries(
    text
      .split(/[\n;,&]+/)
      .map((pair) => {
        const [name = '', ...value] = pair.split('=')
        return [name.trim(), value.join('=').trim(), value.length > 0] as const
      })
      .filter(([name, , hasValue]) => hasValue && /^[\w.-]{1,100}$/.test(name))
      .map(([name, value]) => [name, value]),
  )
}

function followOf(recognised: readonly Recognised[]): Handover['follow'] {
  const of = (field: Field) => recognised.find((one) => one.field === field)?.value
  const [byKeys, byLogin] = [of('sharedSecret') !== undefined, of('initiationUrl') !== undefined]
  // With key and secret at hand, only where launches go may still be behind an address.
  if (byLogin || (byKeys && of('launchUrl') !== undefined)) return null
  const registration = byKeys ? undefined : of('registrationUrl')
  if (registration && addressIn(registration)) return { address: registration, as: 'registration' }
  const configuration = of('configurationUrl')
  return configuration && addressIn(configuration) ? { address: configuration, as: 'configuration' } : null
}

function missingFrom(version: Handover['version'], has: (field: Field) => boolean): Field[] {
  if (version === null) return []
  const needed: Field[] =
    version === '1.1' ? ['name', 'consumerKey', 'sharedSecret'] : ['name', 'launchUrl', 'initiationUrl', 'redirectUri']
  const missing = needed.filter((field) => !has(field))
  return version === '1.3' && !has('keysetUrl') && !has('publicKey') ? [...missing, 'keysetUrl'] : missing
}

function unreadable(statement: string): IntakeRemark {
  return {
    code: 'unreadable',
    field: null,
    verdict: 'fail',
    statement,
    remedy: 'Ask the vendor for a correct one, or enter the values by hand.',
  }
}
