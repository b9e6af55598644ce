export {
  causeOfRefusal,
  probeCredentials,
  Probes,
  PROBES,
  type LaunchCause,
  type OtherHeld,
  type ProbeCredentials,
  type ProbeName,
} from './credentials.js'
export { judgeHandshake } from './handshake.js'
export { HINDRANCES, hindranceOf, type Hindrance } from './hindrance.js'
