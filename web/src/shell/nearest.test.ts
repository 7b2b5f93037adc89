import { describe, expect, it } from 'vitest'
import { lettersApart, nearest, type Findable } from './nearest'

const field = (name: string, path: string, key: string, more: Partial<Findable> = {}): Findable => ({
  name,
  path,
  key,
  ...more,
})
const fields = [
  field('Id', '', 'id', { last: true }),
  field('Booked at', '', 'booked_at', { kind: 'date and time' }),
  field('Sailing name', 'Sailing', 'sailing.name'),
  field('Departure planned', 'Sailing', 'sailing.departs_planned', { kind: 'date and time' }),
  field('Route', 'Sailing › Route', 'sailing.route.name', { values: ['Marrow – Kelda'] }),
  field('Route length', 'Sailing › Route', 'sailing.route.length', { meaning: 'Nautical miles' }),
  field('Country', 'Customer', 'customer.country', { values: ['Kelland'] }),
  field('Country', 'Sailing › Route › From', 'sailing.route.from.country'),
]
const keys = (typed: string) => nearest(typed, fields, (f) => f).map((f) => f.key)

describe('what is found', () => {
  it.each([
    ['route name', 'sailing.route.name'],
    ['name route', 'sailing.route.name'],
    ['depart date', 'sailing.departs_planned'],
    ["customers' country", 'customer.country'],
    ['country of customer', 'customer.country'],
    ['costumer country', 'customer.country'],
    ['contry', 'customer.country'],
    ['lenght', 'sailing.route.length'],
    ['miles', 'sailing.route.length'],
    ['kelda', 'sailing.route.name'],
    ['route', 'sailing.route.name'],
  ])('%s finds %s first', (typed, key) => expect(keys(typed)[0]).toBe(key))

  it('leaves out what lacks a word, and mends no short word', () => {
    expect(keys('route bicycle')).toEqual([])
    expect(keys('ib')).toEqual([])
  })
  it('puts technical keys last, and all others in their own order when nothing is typed', () => {
    expect(keys('')).toEqual([...fields.slice(1).map((f) => f.key), 'id'])
    expect(keys('i').at(-1)).toBe('id')
  })
})

it('counts letters apart, a swap as one', () => {
  expect(lettersApart('lenght', 'length', 2)).toBe(1)
  expect(lettersApart('kelda', 'kelda', 1)).toBe(0)
  expect(lettersApart('route', 'boat', 2)).toBeGreaterThan(2)
})
