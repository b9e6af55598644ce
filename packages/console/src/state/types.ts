import type { SoundingDetail } from '@bathyscribe/contract'

export type StageName = SoundingDetail['findings'][number]['stage']
