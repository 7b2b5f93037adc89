import type { Band } from '../../api/client'

/** A band as it is typed. */
export interface BandRow {
  id: number
  label: string
  from: string
  below: string
  values: string[]
}
/** A bucket as it is typed. */
export interface BandForm {
  label: string
  of: string
  blank: string
  rest: string
  bands: BandRow[]
}

let ids = 0
export const rowOf = (b: Band): BandRow => ({
  id: ids++,
  label: b.label ?? '',
  from: b.from ?? '',
  below: b.below ?? '',
  values: [...(b.values ?? [])],
})
/** A further band, from where the last one ends. */
export const freshRow = (from = '') => rowOf({ from })

const filled = (text: string) => text.trim() || undefined

/** The band that a row makes: values of its own, or bounds. */
export const bandOf = (row: BandRow, listed: boolean): Band =>
  listed
    ? { label: filled(row.label), values: row.values }
    : { label: filled(row.label), from: filled(row.from), below: filled(row.below) }
