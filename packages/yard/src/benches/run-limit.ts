// The limit as a process of its own, so that its processor time can be told from others.
import { startLimit, type LimitSettings } from './limit.js'

const settings = JSON.parse(process.env['LIMIT_SETTINGS'] ?? '{}') as LimitSettings
let isTold = false
const { stop } = await startLimit({
  ...settings,
  // The load counts what went wrong; what it was is told once.
  onFault: (error) => {
    if (!isTold) process.stderr.write(`limit: ${String(error)}\n`)
    isTold = true
  },
})
process.once('SIGTERM', () => void stop().then(() => process.exit(0)))
process.send?.('ready')
