#!/usr/bin/env node
// Runs the practice identity provider until it is told to stop: practice-sign-on HOST PORT SERVICE_URL
import { startPracticeSignOn } from '../dist/main.js'

const [host = '127.0.0.1', port = '0', service = 'http://localhost:8080'] = process.argv.slice(2)
const provider = await startPracticeSignOn({ host, port: Number(port), services: [service] })
console.log(JSON.stringify({ issuer: provider.issuer }))
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => void provider.stop().then(() => process.exit(0)))
