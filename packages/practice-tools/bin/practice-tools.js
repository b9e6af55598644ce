#!/usr/bin/env node
// Runs the practice tools until it is told to stop: practice-tools [HOST] [PORT] [FOLDER]
import { startPracticeTools } from '../dist/main.js'

const [host = '127.0.0.1', port = '0', stateFolder] = process.argv.slice(2)
const tools = await startPracticeTools({ host, port: Number(port), ...(stateFolder && { stateFolder }) })
console.log(JSON.stringify(tools.addresses))
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => void tools.stop().then(() => process.exit(0)))
