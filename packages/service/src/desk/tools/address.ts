import { Refusal } from '@bathyscribe/contract'
import { checkLaunchAddress } from '@bathyscribe/core/links'

/** @throws Refusal that names the field */
export function checkAddress(address: string, field: string): void {
  const problem = checkLaunchAddress(address)
  if (problem) throw new Refusal(problem.code, problem.detail, [{ path: field, message: problem.detail }])
}
