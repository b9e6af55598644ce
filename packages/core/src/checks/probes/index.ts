export {
  causeOfRefusal,
  probeCredentials,
  Probes,
  type LaunchCause,
  type OtherHeld,
  type ProbeCredentials,
  type ProbeName,
} from './credentials.js'
export { judgeHandshake } from './handshake.js'
export { hindranceOf, isInTheWay, type Hindrance } from './hindrance.js'
