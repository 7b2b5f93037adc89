import { describe, expect, it } from 'vitest'
import { linkKeyOf, said, withField, withLink, withOrder } from './describing'

describe('what people say of records', () => {
  it('is nothing where it is what the database says, and goes when the last word does', () => {
    expect([said(' Harbour  code ', 'Code'), said('Code', 'Code'), said('  ', 'Code')]).toEqual([
      'Harbour code',
      undefined,
      undefined,
    ])
    const one = withField({ label: 'Ports' }, 'code', { label: 'Harbour code', meaning: undefined })
    expect(one).toEqual({ label: 'Ports', fields: { code: { label: 'Harbour code' } } })
    expect(withField(one, 'code', { label: undefined })).toEqual({ label: 'Ports' })
    expect(withLink(withLink({}, 'home', { back: 'Vessels at home' }), 'home', undefined)).toEqual({})
  })

  it('orders only as far as the order differs', () => {
    const loaded = ['a', 'b', 'c', 'd']
    expect(withOrder({}, ['b', 'a', 'c', 'd'], loaded).order).toEqual(['b'])
    expect(withOrder({}, ['a', 'b', 'd', 'c'], loaded).order).toEqual(['a', 'b', 'd'])
    expect(withOrder({ order: ['b'] }, loaded, loaded)).toEqual({})
  })

  it('makes keys that nothing else has', () => {
    expect(linkKeyOf('Tarif – très spécial', ['tarif_tres_special'])).toBe('tarif_tres_special_2')
    expect(linkKeyOf('…', [])).toBe('link')
  })
})
