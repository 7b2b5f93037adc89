import type { Line } from '../../api/client'

/** Which cells of which lines are others than before; null stands for all cells of a line that was not there. */
export type Newer = ReadonlyMap<string, ReadonlySet<number> | null>

/** What a line is known by from one answer to the next; empty if it cannot be told. */
export const lineKey = (line: Line): string =>
  line.level === 0
    ? 'all'
    : line.group !== undefined
      ? `group ${line.group}`
      : line.record
        ? `record ${line.record}`
        : ''

/**
 * The cells of the lines after that are others than before. Lines that were not there count as new only if
 * all lines of before are known: else they may have stood further on.
 */
export function newerCells(before: Iterable<Line>, after: Iterable<Line>, allKnown: boolean): Newer {
  const was = new Map<string, Line>()
  for (const line of before) was.set(lineKey(line), line)
  const out = new Map<string, ReadonlySet<number> | null>()
  for (const line of after) {
    const key = lineKey(line)
    const old = was.get(key)
    if (!key) continue
    if (!old) {
      if (allKnown) out.set(key, null)
      continue
    }
    const cells = new Set<number>()
    line.cells.forEach((text, i) => {
      if (text !== old.cells[i]) cells.add(i)
    })
    if (line.count !== old.count) cells.add(-1)
    if (cells.size) out.set(key, cells)
  }
  return out
}
