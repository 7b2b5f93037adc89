import type { ColumnHead } from '../../api/client'

/** Height of a line in CSS pixels. */
export const lineHeight = 30

const widths: Record<string, number> = {
  text: 124, whole: 90, decimal: 96, money: 98, percent: 90, date: 104, datetime: 150, duration: 88, yesno: 72, picture: 84,
}

/** A column's least width in CSS pixels; wider screens give each its share. */
export function widthOf(column: ColumnHead): number {
  return column.width || Math.max(widths[column.type] ?? 120, 24 + 7.2 * Math.max(column.heading.length, column.note.length))
}

/**
 * Grouped views have a first column for the groups. The first column of records,
 * unless it has totals of its own, moves into it, so that a record stands under
 * its group.
 */
export function leads(columns: readonly ColumnHead[], levels: number): boolean {
  const first = columns[0]
  return levels > 0 && first !== undefined && first.values && !first.fn && !first.numeric && first.type !== 'picture'
}
