import { createServer } from 'node:net'
import { freePort, freeRow, isTaken } from '@bathyscribe/yard/machine/ports'
import { middle } from '@bathyscribe/yard/load/middle'
import { ASSIGNMENTS, COURSES, learners, UNITS } from '@bathyscribe/yard/academy/academy'
import { describe, expect, it } from 'vitest'

describe('a port', () => {
  it('is given once, however many ask at the same time', async () => {
    const ports = await Promise.all(Array.from({ length: 40 }, () => freePort()))
    expect(new Set(ports).size).toBe(40)
  })

  it('is not one that somebody has', async () => {
    const port = await freePort()
    const server = createServer()
    await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
    expect(await isTaken(port)).toBe(true)
    await new Promise((resolve) => server.close(resolve))
    expect(await isTaken(port)).toBe(false)
  })

  it('stands at the head of a row of twenty, and rows do not overlap', async () => {
    const rows = [await freeRow(), await freeRow(), await freeRow()]
    for (const row of rows) expect(row % 20).toBe(0)
    expect(new Set(rows).size).toBe(3)
  })
})

describe('the middle of some measurements', () => {
  it.each([
    [[3], 3],
    [[9, 1, 5], 5],
    [[10, 2, 33, 4], 10],
  ])('of %j is %d, and they stay as they were', (values, wanted) => {
    const before = [...values]
    expect(middle(values)).toBe(wanted)
    expect(values).toEqual(before)
  })
})

describe('the academy of the demo', () => {
  const people = learners()

  it('has 24 learners of each course, and some of two', () => {
    for (const { code } of COURSES) {
      const there = people.filter((one) => one.courses.includes(code))
      expect(there.length).toBeGreaterThanOrEqual(24)
    }
    expect(people.some((one) => one.courses.length === 2)).toBe(true)
  })

  it('gives everybody a user name of their own that can be typed', () => {
    expect(new Set(people.map((one) => one.username)).size).toBe(people.length)
    for (const { username } of people) expect(username).toMatch(/^[a-z.]{2,40}$/)
  })

  it('puts each assignment into a course and a unit that there are', () => {
    for (const { course, unit } of ASSIGNMENTS) {
      expect(COURSES.map((one) => one.code)).toContain(course)
      if (unit) expect(UNITS.find((one) => one.course === course)?.titles).toContain(unit)
    }
  })
})
