export { readFraction, type Fraction, type FractionProblem } from './fraction.js'
export { addPoints, fractionOf, pointsOf, sameNumber, shown } from './points.js'
