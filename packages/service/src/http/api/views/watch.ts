import type { Watch } from '@bathyscribe/contract'
import type { FoundWatch } from '../../../desk/watch/read-watch.js'
import { inText } from './moments.js'
import { soundingView } from './soundings.js'

export function watchView({ soundings, ...found }: FoundWatch): Watch {
  return { ...inText(found), soundings: soundings.map(soundingView) }
}
