import type { CellRead } from '../dates/index.js'

/** A decimal out of a cell, with point or comma as its mark. */
export function readDecimalCell(text: string): CellRead<string | null> {
  const cell = text.trim()
  if (cell === '') return { value: null }
  const plain = /^\d{1,6},\d{1,4}$/.test(cell) ? cell.replace(',', '.') : cell
  return /^\d{1,6}(\.\d{1,4})?$/.test(plain) && Number(plain) <= 100_000
    ? { value: plain }
    : { problem: `“${cell.slice(0, 40)}” is no number from 0 to 100000 with at most four decimals` }
}

/** A truth value out of a cell. */
export function readFlagCell(text: string): CellRead<boolean | null> {
  const cell = text.trim().toLowerCase()
  if (cell === '') return { value: null }
  if (['yes', 'y', 'true', '1', 'x', 'on'].includes(cell)) return { value: true }
  if (['no', 'n', 'false', '0', '-', 'off'].includes(cell)) return { value: false }
  return { problem: `“${cell.slice(0, 20)}” is neither yes nor no` }
}
