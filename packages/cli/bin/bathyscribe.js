#!/usr/bin/env node
import module from 'node:module'

// From Node 22 on what was compiled once is kept, and a command begins sooner.
module.enableCompileCache?.()
const { main } = await import('../dist/bathyscribe.js')
process.exitCode = await main(process.argv)
