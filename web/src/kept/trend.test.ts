import { describe, expect, it } from 'vitest'
import type { KeptResult } from '../api/client'
import { measuresOf, placed, trendOf } from './trend'

const kept = (key: string, asOf: string, totals: [string, string, string][]) =>
  ({
    key,
    asOf,
    at: asOf,
    totals: totals.map(([path, text, value]) => ({
      path,
      fn: path ? 'sum' : '',
      label: path || 'claims',
      text,
      value,
    })),
  }) as unknown as KeptResult

const all = [
  kept('c', '2026-11-30T08:00:00Z', [
    ['', '1,200', '1200'],
    ['claimed', '52.10', '52.10'],
  ]),
  kept('a', '2026-09-30T08:00:00Z', [
    ['', '900', '900'],
    ['waited', '1:30', '1:30:00'],
  ]),
  kept('b', '2026-10-31T08:00:00Z', [
    ['', '1,000', '1000'],
    ['claimed', '', ''],
  ]),
]

describe('a total through kept results', () => {
  it('goes from the oldest to the newest, and leaves out who has none of it', () => {
    expect(trendOf(all, ' ').map((p) => [p.key, p.value, p.text])).toEqual([
      ['a', 900, '900'],
      ['b', 1000, '1,000'],
      ['c', 1200, '1,200'],
    ])
    expect(trendOf(all, 'claimed sum').map((p) => p.key)).toEqual(['c'])
    expect(trendOf(all, 'waited sum')[0]?.value).toBe(1.5)
  })
  it('can be chosen if some kept result has it', () => {
    expect(measuresOf(all).map((m) => m.label)).toEqual(['claims', 'claimed', 'waited'])
    expect(measuresOf([])).toEqual([])
  })
  it('is drawn from edge to edge by its moments', () => {
    const points = placed(trendOf(all, ' '), 300, 100, 10)
    expect([points[0]!.x, points[2]!.x]).toEqual([10, 290])
    expect([points[0]!.y, points[2]!.y]).toEqual([90, 10])
    expect(placed(trendOf(all, 'claimed sum'), 300, 100)[0]).toMatchObject({ x: 150, y: 50 })
  })
})
