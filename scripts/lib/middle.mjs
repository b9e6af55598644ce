/**
 * The middle of some measurements, of whatever order.
 * @param {readonly number[]} values at least one
 * @returns {number}
 */
export const middle = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]
