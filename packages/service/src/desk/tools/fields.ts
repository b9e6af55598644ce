import { Refusal, type LtiVersion, type NewTool } from '@bathyscribe/contract'
import { lookAlike } from '@bathyscribe/core/links'
import { isScope } from '@bathyscribe/core/lti13'
import { toRichText } from '@bathyscribe/core/rich-text'
import { stripHidden } from '@bathyscribe/core/text'
import type { z } from 'zod'
import { readPublicKeys } from '../../keys/rsa.js'
import type { RegistrationRecord } from '../../records/entities/tools.js'
import { checkAddress } from './address.js'

type Wanted = z.output<typeof NewTool>

type Fields = {
  [K in Exclude<keyof Wanted, 'course' | 'offeredTo' | 'enable' | 'secondReason' | 'acceptBlanks' | 'sharedSecret'>]?:
    | Wanted[K]
    | undefined
}

/** The fields of a registration that people may type, as they are kept. What is not given stays out. @throws Refusal */
export function fieldsOf(wanted: Fields): Partial<RegistrationRecord> {
  const {
    publicKeys,
    offer: _offer,
    version: _version,
    scopes,
    launchUrl,
    keysetUrl,
    initiationUrl,
    configurationUrl,
    pickerUrl,
    learnerText,
    ...rest
  } = wanted
  const unknown = scopes?.find((scope) => !isScope(scope))
  if (unknown !== undefined) throw new Refusal('tool.scope_unknown', unknown.slice(0, 120))
  return {
    ...(Object.fromEntries(
      Object.entries(rest).filter(([, value]) => value !== undefined),
    ) as Partial<RegistrationRecord>),
    ...(scopes !== undefined && { scopes }),
    ...(launchUrl !== undefined && { launchUrl: launchUrl || null }),
    ...(configurationUrl !== undefined && { configurationUrl: configurationUrl || null }),
    ...(pickerUrl !== undefined && { pickerUrl: pickerUrl || null }),
    ...(learnerText !== undefined && { learnerText: toRichText(learnerText) }),
    ...(keysetUrl !== undefined && { keysetUrl: keysetUrl || null }),
    ...(initiationUrl !== undefined && { initiationUrl: initiationUrl || null }),
    ...(wanted.name !== undefined && { likeness: lookAlike(wanted.name) }),
    ...(publicKeys !== undefined && { publicKeys: publicKeys.trim() === '' ? null : readPublicKeys(publicKeys) }),
  }
}

const ONLY_1_1 = ['signatureMethod'] as const
const ONLY_1_3 = ['initiationUrl', 'redirectUris', 'keysetUrl', 'publicKeys', 'scopes'] as const

/** Features follow from scopes where the version has scopes; fields of the other version are refused by name. */
export function withFeatures(wanted: Wanted): Wanted {
  refuseForeignFields(wanted.version, wanted)
  if (wanted.features !== undefined) return wanted
  return { ...wanted, features: wanted.version === '1.1' ? ['scores'] : featuresOf(wanted.scopes ?? []) }
}

export function refuseForeignFields(version: LtiVersion, wanted: Record<string, unknown>): void {
  const foreign = (version === '1.1' ? ONLY_1_3 : ONLY_1_1).find((name) => {
    const value = wanted[name]
    return value !== undefined && value !== null && !(Array.isArray(value) && value.length === 0) && value !== ''
  })
  if (foreign) throw new Refusal('tool.version_fixed', foreign)
}

/** Who gives a picker's address says that there is a picker; who takes it away, that there is none. */
export function pickerFeature(
  features: RegistrationRecord['features'],
  pickerUrl: string | null | undefined,
): Partial<Pick<RegistrationRecord, 'features'>> {
  if (pickerUrl === undefined) return {}
  const others = features.filter((one) => one !== 'picker')
  return { features: pickerUrl ? [...others, 'picker'] : others }
}

export function featuresOf(scopes: readonly string[]): RegistrationRecord['features'] {
  return [
    ...(scopes.some((scope) => scope.endsWith('/lti-ags/scope/score')) ? (['scores'] as const) : []),
    ...(scopes.some((scope) => scope.includes('/lti-nrps/')) ? (['roster'] as const) : []),
  ]
}

/** Refuses key and secret that carry blanks, unless that is wanted for the secret. @throws Refusal */
export function checkCredentials(given: {
  consumerKey?: string | undefined
  sharedSecret?: string | undefined
  acceptBlanks: boolean
}): void {
  if (given.consumerKey !== undefined && stripHidden(given.consumerKey) !== given.consumerKey)
    throw new Refusal('tool.key_has_blanks')
  if (given.sharedSecret !== undefined && !given.acceptBlanks && stripHidden(given.sharedSecret) !== given.sharedSecret)
    throw new Refusal('tool.secret_has_blanks')
}

/** Checks every address of a registration. @throws Refusal that names the field */
export function checkAddresses(wanted: Fields): void {
  for (const field of ['launchUrl', 'pickerUrl', 'configurationUrl', 'initiationUrl', 'keysetUrl'] as const)
    if (wanted[field]) checkAddress(wanted[field], field)
  wanted.redirectUris?.forEach((one, i) => checkAddress(one, `redirectUris.${i}`))
  wanted.placements?.forEach((one, i) => {
    if (one.launchUrl) checkAddress(one.launchUrl, `placements.${i}.launchUrl`)
  })
}
