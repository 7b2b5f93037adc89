import { describe, expect, it } from 'vitest'
import { optionsOf, sizeOf, usual } from './choices'

const columns = [{ key: 'ref' }, { key: 'claimed' }, { key: 'paid' }]

describe('what is taken away', () => {
  it('takes records only where they are on screen', () => {
    expect(usual(1, 2).file.rows).toBe('totals')
    expect(usual(2, 2).file.rows).toBe('records')
    expect(optionsOf(usual(1, 2))).toEqual({ format: 'xlsx', rows: 'ledger', depth: 1 })
  })
  it('leaves columns behind where lines are rows, and nowhere else', () => {
    const left = { ...usual(2, 2), left: ['claimed'] }
    expect(optionsOf(left, columns)).toEqual({ format: 'xlsx', rows: 'ledger', depth: 2 })
    const plain = { ...left, spreadsheet: { rows: 'records' as const } }
    expect(optionsOf(plain, columns)).toEqual({ format: 'xlsx', rows: 'records', columns: ['ref', 'paid'] })
    // What was left behind in another view does not matter here.
    expect(optionsOf({ ...plain, left: ['gone'] }, columns).columns).toBeUndefined()
  })
  it('says how values are separated of separated values alone', () => {
    const file = { ...usual(0, 0), what: 'file' as const }
    expect(optionsOf(file)).toEqual({
      format: 'csv',
      rows: 'records',
      separator: 'comma',
      encoding: 'utf-8-marked',
      keys: false,
      guard: true,
    })
    const as = (format: 'parquet' | 'html', rows: 'ledger' | 'records') =>
      optionsOf({ ...file, file: { ...file.file, format, rows } })
    expect(as('parquet', 'ledger')).toEqual({ format: 'parquet', rows: 'records', keys: false })
    expect(as('html', 'ledger')).toEqual({ format: 'html', rows: 'ledger' })
    expect(optionsOf({ ...file, what: 'clipboard' })).toMatchObject({ separator: 'tab', guard: true })
  })
  it('says sizes in words', () => {
    expect([999, 7920, 55_473, 2_222_236, 3_200_000_000].map(sizeOf)).toEqual([
      '999 bytes',
      '7.9 KB',
      '55 KB',
      '2.2 MB',
      '3.2 GB',
    ])
  })
})
