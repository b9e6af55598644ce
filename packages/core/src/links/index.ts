export { checkLaunchAddress, type AddressProblem } from './launch-address.js'
export { framingRefusal } from './framing.js'
