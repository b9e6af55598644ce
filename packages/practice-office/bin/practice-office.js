#!/usr/bin/env node
// Runs the practice records office until it is told to stop: practice-office [HOST] [PORT] [FOLDER]
import { startPracticeOffice } from '../dist/main.js'

const [host = '127.0.0.1', port = '0', folder] = process.argv.slice(2)
const office = await startPracticeOffice({
  host,
  port: Number(port),
  ...(folder && { stateFile: `${folder}/office.json` }),
})
console.log(JSON.stringify({ office: office.address }))
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => void office.stop().then(() => process.exit(0)))
