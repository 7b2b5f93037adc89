import { describe, expect, it } from 'vitest'
import { dayOfMonth, last, onDay, repeatedBy, toggled, type Rule } from './rule'

const weekly: Rule = { every: 'week', on: ['tuesday'], count: 2, at: '07:30', from: '2026-11-23' }

describe('a rule in the making', () => {
  it('keeps its time and what it counts from whatever it repeats by, and nothing that does not fit', () => {
    const monthly = repeatedBy(weekly, 'month')
    expect(monthly).toEqual({
      every: 'month',
      nth: 1,
      on: ['monday'],
      count: 2,
      at: '07:30',
      from: '2026-11-23',
    })
    expect(repeatedBy(monthly, 'working day')).toEqual({
      every: 'working day',
      at: '07:30',
      from: '2026-11-23',
    })
    expect(repeatedBy(weekly, 'week')).toEqual(weekly)
  })
  it('means one day of a month', () => {
    const monthly = { ...repeatedBy(weekly, 'month'), nth: last }
    expect(dayOfMonth(monthly)).toBe('monday')
    const working = onDay(monthly, 'working')
    expect([dayOfMonth(working), working.nth, working.on]).toEqual(['working', last, undefined])
    const dated = onDay(working, 'date')
    expect([dayOfMonth(dated), dated.date, dated.nth]).toEqual(['date', 1, undefined])
  })
  it('has a day of the week at least', () => {
    expect(toggled(weekly, 'tuesday').on).toEqual(['tuesday'])
    expect(toggled(toggled(weekly, 'friday'), 'tuesday').on).toEqual(['friday'])
  })
})
