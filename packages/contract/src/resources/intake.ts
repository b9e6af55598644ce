import { DISCLOSURES } from '@bathyscribe/core/identity'
import { FIELDS } from '@bathyscribe/core/intake'
import { PLACES } from '@bathyscribe/core/links'
import { z } from 'zod'
import { CustomParameters, prose, ToolRef } from './common.js'
import { LTI_VERSIONS, ToolMetadata } from './tools.js'

const Field = z.enum(FIELDS)

export const IntakeQuestion = z.strictObject({
  text: prose(200_000).min(1).describe('whatever the vendor handed over: text, an address, XML or JSON'),
  follow: z.boolean().default(true).describe('read what an address leads to'),
})

/** What was handed over, as it was understood. Nothing of it is registered. */
export const IntakeAnswer = z.object({
  kind: z.enum(['text', 'xml', 'json', 'address', 'nothing']),
  version: z.enum(LTI_VERSIONS).nullable(),
  recognised: z.array(
    z.object({
      field: Field,
      word: z.string().describe('the field in words'),
      value: z.string(),
      source: z.string().describe('which part of the input it is from'),
      removed: z.array(z.string()).describe('what was left out of it'),
    }),
  ),
  remarks: z.array(
    z.object({
      code: z.string(),
      field: Field.nullable(),
      verdict: z.enum(['warn', 'fail']),
      statement: z.string(),
      remedy: z.string(),
    }),
  ),
  missing: z.array(z.object({ field: Field, word: z.string() })),
  pairs: z
    .array(
      z.object({
        consumerKey: z.string(),
        sharedSecret: z.string(),
        purpose: z.string(),
        returnsScores: z.boolean().nullable(),
      }),
    )
    .describe('when there are several: one has to be chosen'),
  customParameters: CustomParameters,
  proposedName: z.string().nullable().describe('a name to begin with where none was given'),
  scopes: z
    .array(z.object({ scope: z.string(), allows: z.string(), because: z.enum(['named', 'in words', 'usual']) }))
    .describe('what the tool asks to be allowed, of LTI 1.3; or what is usual where it does not say'),
  beyond: z
    .array(
      z.object({
        from: z.string(),
        name: z.string(),
        value: z.string(),
        mightFill: z
          .discriminatedUnion('field', [
            z.object({ field: z.literal('disclosure'), value: z.enum(DISCLOSURES) }),
            z.object({ field: z.literal('placements'), value: z.array(z.enum(PLACES)) }),
            z.object({ field: z.literal('pickerUrl'), value: z.string() }),
          ])
          .nullable(),
      }),
    )
    .describe('what is no value to copy: to be taken over by a person where it fits, never by itself'),
  metadata: ToolMetadata.nullable(),
  fetched: z.string().nullable().describe('the address that was read'),
  registrationAddress: z.string().nullable().describe('where the tool registers itself'),
  same: z
    .array(z.object({ tool: ToolRef, what: z.array(z.enum(['key', 'client', 'launch address', 'name'])) }))
    .describe('registrations that look like this one'),
})
export type IntakeAnswer = z.infer<typeof IntakeAnswer>
