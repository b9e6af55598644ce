import { basename } from 'node:path'
import { BaseSequencer, type TestSpecification } from 'vitest/node'

/** Files that take longest, by their names, the longest first: begun last they would be waited for alone. */
const LONG = [
  'soundings-browser', 'misbehaviours-13', 'misbehaviours-11', 'misbehaviours-13-others', 'soundings', 'command-line', 'story', 'accessibility', 'console',
  'making', 'handing-over', 'access', 'sweeps', 'misbehaviours-slow', 'connections', 'tokens', 'grading',
] // oxfmt-ignore

export class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = (file: TestSpecification) => {
      const at = LONG.indexOf(basename(file.moduleId, '.test.ts'))
      return at === -1 ? LONG.length : at
    }
    return (await super.sort(files)).sort((a, b) => place(a) - place(b))
  }
}
