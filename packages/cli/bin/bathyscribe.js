#!/usr/bin/env node
import { main } from '../dist/program.js'

process.exitCode = await main(process.argv)
