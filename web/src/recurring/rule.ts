import type { Schemas } from '../api/client'

export type Rule = Schemas['Rule']
export type Weekday = NonNullable<Rule['on']>[number]

export const weekdays: readonly { day: Weekday; short: string; name: string }[] = [
  { day: 'monday', short: 'Mon', name: 'Monday' },
  { day: 'tuesday', short: 'Tue', name: 'Tuesday' },
  { day: 'wednesday', short: 'Wed', name: 'Wednesday' },
  { day: 'thursday', short: 'Thu', name: 'Thursday' },
  { day: 'friday', short: 'Fri', name: 'Friday' },
  { day: 'saturday', short: 'Sat', name: 'Saturday' },
  { day: 'sunday', short: 'Sun', name: 'Sunday' },
]

/** The last day of a month, or the last of its weekdays. */
export const last = -1

/** Which day of a month a rule means: its date, one of its weekdays, or one of its working days. */
export type DayOfMonth = 'date' | 'working' | Weekday

export function dayOfMonth(rule: Rule): DayOfMonth {
  if (!rule.nth) return 'date'
  return rule.on?.[0] ?? 'working'
}

/** A rule by another unit, with what that needs and nothing else. */
export function repeatedBy(rule: Rule, every: Rule['every']): Rule {
  const { at, from, count } = rule
  switch (every) {
    case 'week':
      return { every, at, from, count, on: rule.every === 'week' ? rule.on : ['monday'] }
    case 'month':
      return { every, at, from, count, nth: 1, on: ['monday'] }
    case 'working day':
      return { every, at, from }
  }
  return { every, at, from, count }
}

/** A monthly rule that means another of a month's days. */
export function onDay(rule: Rule, day: DayOfMonth): Rule {
  const { every, at, from, count } = rule
  if (day === 'date') return { every, at, from, count, date: 1 }
  const nth = rule.nth ?? 1
  return { every, at, from, count, nth, on: day === 'working' ? undefined : [day] }
}

/** A weekly rule with a day more, or less; the last one stays. */
export function toggled(rule: Rule, day: Weekday): Rule {
  const had = rule.on ?? []
  const on = had.includes(day) ? had.filter((d) => d !== day) : [...had, day]
  return { ...rule, on: on.length ? on : had }
}
