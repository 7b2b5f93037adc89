import type { Field, Group } from '../api/client'
import { nearest, wordsIn, type Findable } from '../shell/nearest'

export type Unit = NonNullable<Group['unit']>

/** A field as finders see it. */
export const findable = (f: Field): Findable => ({
  name: f.label,
  path: f.way.join(' › '),
  key: f.path,
  kind: f.typeName,
  meaning: f.meaning,
  values: f.samples,
  last: f.technical,
})

/** The fields that match what was typed, the nearest first; hidden ones are not offered. */
export function findFields(fields: readonly Field[], typed: string): Field[] {
  return nearest(
    typed,
    fields.filter((f) => !f.hidden),
    findable,
  )
}

const units: Record<string, Unit> = {
  day: 'day',
  daily: 'day',
  week: 'week',
  weekly: 'week',
  month: 'month',
  monthly: 'month',
  quarter: 'quarter',
  quarterly: 'quarter',
  year: 'year',
  yearly: 'year',
  weekday: 'weekday',
  hour: 'hour',
}

/** A unit of time among the words typed, and the others: "month booked" is months of what was booked. */
export function unitIn(typed: string): { unit: Unit; rest: string } | null {
  const words = wordsIn(typed)
  for (const [i, word] of words.entries()) {
    const named = units[word] ?? units[word.replace(/s$/, '')]
    if (!named) continue
    const fiscal = words[i - 1] === 'fiscal' && (named === 'year' || named === 'quarter')
    const rest = words.filter((_, j) => j !== i && !(fiscal && j === i - 1)).join(' ')
    return { unit: fiscal ? (`fiscal_${named}` as Unit) : named, rest }
  }
  return null
}

export interface GroupChoice {
  field: Field
  unit?: Unit
}

/** What one can group by: where a unit of time is named, dates by that unit come first. */
export function findGroups(fields: readonly Field[], typed: string): GroupChoice[] {
  const named = unitIn(typed)
  const dated = named
    ? findFields(
        fields.filter((f) => f.type === 'datetime' || (f.type === 'date' && named.unit !== 'hour')),
        named.rest,
      ).map((field) => ({ field, unit: named.unit }))
    : []
  return [...dated, ...findFields(fields, typed).map((field) => ({ field }))]
}
