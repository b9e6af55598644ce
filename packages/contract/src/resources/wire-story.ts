import { z } from 'zod'
import { Moment, SerialId } from './common.js'
import { WireEntryDetail } from './wire.js'

export const WIRE_STORY_FORMAT = 'bathyscribe wire story'

/** The messages of one launch in their order, as a file too: a program’s own format, plain JSON, secrets masked as in the log. */
export const WireStory = z.object({
  format: z.literal(WIRE_STORY_FORMAT),
  version: z.literal(1),
  platform: z.string(),
  madeAt: Moment,
  /** The entry that was asked for. */
  about: SerialId,
  entries: z.array(
    WireEntryDetail.extend({
      /** Whether it belongs to this launch for certain; false for calls that name neither person nor link and only fall into its time. */
      certain: z.boolean(),
    }),
  ),
})
export type WireStory = z.infer<typeof WireStory>
