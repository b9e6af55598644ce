#!/usr/bin/env node
import { main } from '../dist/bathyscribe.js'

process.exitCode = await main(process.argv)
