import { afterAll } from 'vitest'
import { closeAll } from './closing.js'

afterAll(closeAll)
