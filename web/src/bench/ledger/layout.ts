import type { ColumnHead, Line, RunResult } from '../../api/client'
import { formatCount } from '../../words'

/** Height of a line in CSS pixels. */
export const lineHeight = 30
/** Height of the headings. */
export const headHeight = 40

const widths: Record<string, number> = {
  text: 124,
  whole: 90,
  decimal: 96,
  money: 98,
  percent: 90,
  date: 104,
  datetime: 150,
  duration: 88,
  yesno: 72,
  picture: 84,
}

/** The group across that a column of a crosstab belongs to. */
export const acrossOf = (column: ColumnHead) =>
  column.across?.length ? column.across.map((label) => label || 'blank').join(' › ') : 'All'

/** What a column is called: in a crosstab, the group across that it belongs to. */
export const headOf = (column: ColumnHead) => (column.across ? acrossOf(column) : column.heading)

/** What its figures are: in a crosstab whose, in a comparison of which side. */
export function noteOf(column: ColumnHead): string {
  if (column.side) return column.side
  if (!column.across) return column.note
  // What counts records is called by them; what totals, by its column.
  return column.index >= 0 ? `${column.heading}: ${column.note}` : column.heading
}

/** A column's least width in CSS pixels, with room for its largest figure; wider screens give each its share. */
export function widthOf(column: ColumnHead, figure: string): number {
  return (
    column.width ||
    Math.max(
      26 + 8.4 * Math.min(figure.length, 24),
      widths[column.type] ?? 120,
      24 + 7.2 * Math.max(column.across ? 0 : headOf(column).length, noteOf(column).length),
    )
  )
}

/** Width of the groups' column: room for the labels of the first lines with their counts, and for the grand total's. */
export function groupsWidth(result: RunResult): number {
  const wide = (line: Line, each: number) =>
    each *
    `${line.label ?? ''} ${formatCount(line.count ?? 0)}${line.others === undefined ? '' : ` / ${line.others}`}`
      .length
  const groups = result.lines.filter((l) => l.group !== undefined).slice(0, 60)
  const most = Math.max(0, ...groups.map((l) => 44 + 18 * (l.level - 1) + wide(l, 7.3)))
  return Math.round(Math.min(380, Math.max(190, 30 + wide(result.grand, 7.6), most)))
}

/**
 * Grouped views have a first column for the groups. The first column of records,
 * unless it has totals of its own, moves into it, so that a record stands under
 * its group.
 */
export function leads(columns: readonly ColumnHead[], levels: number): boolean {
  const first = columns[0]
  return (
    levels > 0 &&
    first !== undefined &&
    first.values &&
    !first.fn &&
    !first.numeric &&
    first.type !== 'picture'
  )
}

/** A column without a total: it has nothing to show as long as there are only groups. */
export const carriesNothing = (column: ColumnHead) =>
  column.index >= 0 && !column.fn && !column.part && !column.frozen
