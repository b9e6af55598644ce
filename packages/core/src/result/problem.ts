/**
 * Why something is not accepted: a code of the catalogue, and which part or figure it was. A class of its own, so that nothing that was read is ever taken for one because it
 * has a `code`, too; `instanceof` tells. It does not travel: between threads only its two texts do.
 */
export class Problem<Code extends string = string> {
  /** For types alone: an object that merely has the same names is none. */
  declare protected readonly isProblem: true

  constructor(
    readonly code: Code,
    readonly detail: string,
  ) {}
}
