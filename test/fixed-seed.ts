import fc from 'fast-check'

// A gate draws the same cases each time: what it lets through once it lets through again. `TEST_SEED=random` looks for new ones.
const wanted = process.env['TEST_SEED'] ?? '20261128'
if (wanted !== 'random') fc.configureGlobal({ seed: Number(wanted) })
