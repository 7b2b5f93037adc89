import { describe, expect, it } from 'vitest'
import type { FieldLook, FileRecipe } from '../api/client'
import { nameOf, sizeOf, troubleOf, withField, withKey, withLink, withType } from './recipe'

const recipe: FileRecipe = {
  settings: {},
  fields: [
    { heading: 'Item', key: 'item', label: 'Item', type: 'text' },
    { heading: 'Price', key: 'price', label: 'Price', type: 'money', way: 'comma', currency: 'EUR' },
  ],
}
const look = {
  there: true,
  misfits: 0,
  open: [],
  choices: [
    { type: 'date', name: 'date', ways: [{ key: 'iso', words: '' }] },
    { type: 'money', name: 'money', ways: [{ key: 'point', words: '' }] },
  ],
} as unknown as FieldLook

describe('a recipe', () => {
  it('loses the key and the link of a column that is left out', () => {
    const linked = withLink(withKey(recipe, 'item', true), 'item', 'booking_lines', 'item')
    expect(linked.by).toEqual(['item'])
    const out = withField(linked, 0, { out: true })
    expect(out.by).toEqual([])
    expect(out.links).toEqual([])
    expect(recipe.by).toBeUndefined()
  })
  it('takes the likeliest way of a type, and keeps a currency for amounts alone', () => {
    expect(withType(recipe, 1, look, 'date').fields[1]).toMatchObject({ type: 'date', way: 'iso' })
    expect(withType(recipe, 1, look, 'date').fields[1]?.currency).toBeUndefined()
    expect(withType(recipe, 1, look, 'money').fields[1]).toMatchObject({ way: 'point', currency: 'EUR' })
    expect(withType(recipe, 0, look, 'text').fields[0]?.way).toBeUndefined()
  })
  it('says what does not fit', () => {
    const field = recipe.fields[0]!
    expect(troubleOf(field, look)).toBe('')
    expect(troubleOf(field, { ...look, misfits: 2 })).toBe('2 values do not fit')
    expect(troubleOf({ ...field, out: true }, { ...look, misfits: 2 })).toBe('')
    expect(troubleOf(field, { ...look, there: false })).toBe('not in this file')
  })
  it('makes names and sizes', () => {
    expect(nameOf('price-list_2026.csv')).toBe('Price list 2026')
    expect(['a'.repeat(99) + '.csv'].map(nameOf)[0]).toHaveLength(60)
    expect([999, 1500, 250_000_000, 999_600].map(sizeOf)).toEqual(['999 bytes', '1.5 KB', '250 MB', '1.0 MB'])
  })
})
