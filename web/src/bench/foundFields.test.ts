import { expect, it } from 'vitest'
import type { Field } from '../api/client'
import { findGroups, unitIn } from './foundFields'

const field = (path: string, label: string, type: Field['type']): Field => ({
  path,
  label,
  type,
  typeName: type,
  way: [],
  meaning: '',
  numeric: false,
  filled: 1,
  samples: [],
  ops: [],
  fns: [],
  takes: [],
  beside: [],
})
const fields = [
  field('number', 'Number', 'text'),
  field('opened', 'Opened', 'datetime'),
  field('settled_on', 'Settled on', 'date'),
  field('months_open', 'Months open', 'whole'),
]
const found = (typed: string) =>
  findGroups(fields, typed).map((g) => `${g.field.path} ${g.unit ?? ''}`.trim())

it('groups by a unit that is typed, of the date that is meant', () => {
  expect(found('month opened')[0]).toBe('opened month')
  expect(found('settled weekly')[0]).toBe('settled_on week')
  expect(found('hour')).toEqual(['opened hour'])
  expect(found('fiscal year settled')[0]).toBe('settled_on fiscal_year')
  // A field that is called so is found as well, after the dates that are meant.
  expect(found('months')).toEqual(['opened month', 'settled_on month', 'months_open'])
  expect(found('number')).toEqual(['number'])
})
it('knows a unit only as a word of its own', () => {
  expect(unitIn('booked at')).toBeNull()
  expect(unitIn('by quarter of booking')).toEqual({ unit: 'quarter', rest: 'by of booking' })
})
