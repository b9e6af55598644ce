export {
  isRandom,
  PARAMETER_VERDICTS,
  readPastedAddress,
  type AddressParameter,
  type AddressReading,
  type Author,
} from './clean-address.js'
export { belongsTo, toolsOf, type Belonging } from './domain.js'
export { framingRefusal } from './framing.js'
export {
  frameAllowance,
  FRAME_PERMISSIONS,
  POLICY_FEATURES,
  type FramedTool,
  type FramePermission,
} from './frame-permissions.js'
export { cookiesLostInFrame } from './frame-cookies.js'
export { checkLaunchAddress, type AddressProblem } from './launch-address.js'
export { lookAlike } from './likeness.js'
export { movedAddress, type AddressMove } from './moved-address.js'
export { isThisMachine, travelsOpenly } from './open-address.js'
export {
  AUDIENCES,
  PLACES,
  returnsScores,
  whereShown,
  type Audience,
  type Place,
  type Placement,
  type Showing,
  type ShowingFacts,
} from './placements.js'
export { resolveVariables, VARIABLE_NAMES, type VariableFacts } from './variables.js'
