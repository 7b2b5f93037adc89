import { expect, it } from 'vitest'
import { addressesIn, attached, toggled } from './files'

it('attaches a file of each format once, and keeps what was chosen of the others', () => {
  const had = [{ format: 'xlsx' as const, rows: 'records' as const }]
  const two = toggled(had, 'csv')
  expect(two).toEqual([{ format: 'xlsx', rows: 'records' }, { format: 'csv' }])
  expect(attached(two, 'csv')).toBe(true)
  expect(toggled(two, 'csv')).toEqual(had)
  expect(toggled(undefined, 'pdf')).toEqual([{ format: 'pdf' }])
})

it('reads addresses however they are apart', () => {
  expect(addressesIn(' a@b.example, c@d.example;\ne@f.example ')).toEqual([
    'a@b.example',
    'c@d.example',
    'e@f.example',
  ])
})
