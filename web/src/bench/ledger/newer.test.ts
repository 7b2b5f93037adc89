import { describe, expect, it } from 'vitest'
import type { Line } from '../../api/client'
import { newerCells } from './newer'

const record = (key: string, ...cells: string[]): Line => ({ level: 1, record: key, cells })
const group = (path: string, count: number, ...cells: string[]): Line => ({
  level: 1,
  group: path,
  count,
  cells,
})

describe('newer cells', () => {
  it('are those whose text is another, whichever line they stand on now', () => {
    const before = [record('a', '1', 'x'), record('b', '2', 'y'), group('g', 2, '3')]
    const after = [
      record('b', '2', 'z'),
      record('a', '1', 'x'),
      group('g', 3, '3'),
      { level: 0, cells: ['9'] },
    ]
    expect([...newerCells(before, after, false)]).toEqual([
      ['record b', new Set([1])],
      ['group g', new Set([-1])],
    ])
  })

  it('tell lines that came only where all lines of before are known', () => {
    const after = [record('a', '1'), record('new', '2'), { level: 1, cells: ['no address'] }]
    expect(newerCells([record('a', '1')], after, false).size).toBe(0)
    expect([...newerCells([record('a', '1')], after, true)]).toEqual([['record new', null]])
  })
})
