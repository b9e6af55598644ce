import fc from 'fast-check'
import { z } from 'zod'

type Json = null | boolean | number | string | Json[] | { [name: string]: Json }
type Schema = z.core.JSONSchema.BaseSchema
const LONGEST = 40

const FORMATS: Record<string, fc.Arbitrary<string>> = {
  'date-time': fc.date({ min: new Date('1990-01-01'), max: new Date('2090-01-01'), noInvalidDate: true }).map((at) => at.toISOString()), // oxfmt-ignore
  email: fc.emailAddress().map((address) => address.toLowerCase()),
  uri: fc.webUrl(),
}

/** What a schema of the contract takes, or nearly so: what JSON Schema cannot say (half characters, sums) is not held. */
export const arbitraryOf = (schema: z.ZodType): fc.Arbitrary<Json> =>
  fromJsonSchema(z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }))

function fromJsonSchema(schema: Schema): fc.Arbitrary<Json> {
  if (schema.const !== undefined) return fc.constant(schema.const as Json)
  if (schema.enum) return fc.constantFrom(...(schema.enum as Json[]))
  const either = schema.anyOf ?? schema.oneOf
  if (either) return fc.oneof(...(either as Schema[]).map(fromJsonSchema))
  if (Array.isArray(schema.type))
    return fc.oneof(...(schema.type as string[]).map((type) => fromJsonSchema({ ...schema, type } as Schema)))
  switch (schema.type) {
    case 'null':
      return fc.constant(null)
    case 'boolean':
      return fc.boolean()
    case 'integer':
      // Where the contract draws no line, the records may have one.
      return fc.integer({
        min: schema.minimum ?? Number.MIN_SAFE_INTEGER,
        max: schema.maximum ?? Number.MAX_SAFE_INTEGER,
      })
    case 'number':
      return fc.double({ min: schema.minimum ?? -1e6, max: schema.maximum ?? 1e6, noNaN: true })
    case 'string':
      return text(schema)
    case 'array':
      if (schema.prefixItems)
        return fc.tuple(...(schema.prefixItems as Schema[]).map(fromJsonSchema)) as fc.Arbitrary<Json>
      return fc.array(fromJsonSchema(schema.items as Schema), {
        minLength: schema.minItems ?? 0,
        maxLength: Math.max(schema.minItems ?? 0, Math.min(schema.maxItems ?? 3, 3)),
      })
    case 'object':
      return properties(schema)
    default:
      return fc.jsonValue({ maxDepth: 1 }) as fc.Arbitrary<Json>
  }
}

function text(schema: Schema): fc.Arbitrary<string> {
  if (schema.format && FORMATS[schema.format]) return FORMATS[schema.format]!
  const minLength = schema.minLength ?? 0
  const maxLength = Math.max(minLength, Math.min(schema.maxLength ?? LONGEST, LONGEST))
  // What only forbids some characters leaves nearly all: those of every script are tried.
  const patterns = [schema, ...((schema.allOf ?? []) as Schema[])].flatMap((one) => one.pattern ?? [])
  const pattern = patterns.find((one) => !one.startsWith('^[^'))
  const any = pattern
    ? fc.stringMatching(new RegExp(pattern, 'u'), { size: 'small' })
    : fc.oneof(fc.string({ unit: 'grapheme', minLength, maxLength }), fc.constantFrom('1', 'Fathoms', '<b>&"\'', '٣'))
  return any.map((one) => one.slice(0, schema.maxLength))
}

/** Entries by names: of a list of names each one, as a record of Zod has it; else some of the form that they may have. */
function dictionary(schema: Schema): fc.Arbitrary<Json> {
  const { additionalProperties: more, propertyNames } = schema
  const value = typeof more === 'object' ? fromJsonSchema(more as Schema) : fc.constant('x')
  const names = propertyNames as Schema | undefined
  if (names?.enum)
    return fc.record(Object.fromEntries((names.enum as string[]).map((name) => [name, value])), {
      requiredKeys: (schema.required ?? []) as never,
      noNullPrototype: true,
    }) as fc.Arbitrary<Json>
  const name = names?.pattern ? text(names) : fc.string({ minLength: 1, maxLength: 20 })
  return fc.dictionary(name, value, { maxKeys: 3, noNullPrototype: true })
}

function properties(schema: Schema): fc.Arbitrary<Json> {
  if (!schema.properties) return dictionary(schema)
  const parts = Object.entries(schema.properties).map(([name, one]) => [name, fromJsonSchema(one as Schema)] as const)
  return fc.record(Object.fromEntries(parts), {
    requiredKeys: (schema.required ?? []).filter((name) => schema.properties![name] !== undefined) as never,
    noNullPrototype: true,
  }) as fc.Arbitrary<Json>
}

/** What no field expects. */
export const odd: fc.Arbitrary<Json> = fc.oneof(
  fc.constantFrom<Json>(null, true, -1, 0, 1e308, 2 ** 53, '', '\u0000', '\ud800', '%', '../..', '9'.repeat(19), '-0', 'NaN', '__proto__', 'constructor', {}, []), // oxfmt-ignore
  fc.constantFrom('1e400', '9'.repeat(80), 'a'.repeat(20_000), '\u202e', '2026-02-30T00:00:00Z', '+275760-09-13T00:00:00Z'), // oxfmt-ignore
  fc.string({ unit: 'binary', maxLength: 60 }),
  fc.jsonValue({ maxDepth: 2 }) as fc.Arbitrary<Json>,
)

/** The same with one place of it, however deep, replaced. */
export function broken(value: Json, where: number, by: Json): Json {
  const places = placesOf(value)
  const path = places[where % places.length]!
  return replaced(value, path, by)
}

function placesOf(value: Json, at: (string | number)[] = []): (string | number)[][] {
  if (value === null || typeof value !== 'object') return [at]
  return [at, ...Object.entries(value).flatMap(([name, one]) => placesOf(one, [...at, name]))]
}

function replaced(value: Json, [name, ...rest]: (string | number)[], by: Json): Json {
  if (name === undefined) return by
  const copy = (Array.isArray(value) ? [...value] : { ...(value as object) }) as Record<string | number, Json>
  copy[name] = replaced(copy[name]!, rest, by)
  return copy as Json
}
