import { onBeforeUnmount, watch } from 'vue'
import { useCall } from '../state/api'

const LOOK_EVERY_MS = 2000

/** A sounding that is looked at until it has ended. Changes come by themselves; looking again is for when the stream is down. */
export function useFollowedSounding(id: () => string) {
  const reading = useCall('showSounding', () => ({ params: { id: id() } }))
  const { data, refetch } = reading
  const timer = setInterval(() => data.value?.state === 'running' && void refetch(), LOOK_EVERY_MS)
  onBeforeUnmount(() => clearInterval(timer))
  watch(data, (one) => one && one.state !== 'running' && clearInterval(timer))
  return reading
}
