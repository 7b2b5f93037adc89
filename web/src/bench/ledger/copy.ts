import type { Line } from '../../api/client'
import type { Run } from '../useRun'
import type { Place } from './useColumns'

/** Most lines that are copied at once; more is what exports are for. */
export const mostCopied = 50_000

/** Cells as text that spreadsheets take: a line for each line, a tab between cells. */
export async function asText(
  run: Run,
  places: readonly Place[],
  top: number,
  bottom: number,
  left: number,
  right: number,
  lead: boolean,
): Promise<string> {
  const lines = await run.plainLines(top, bottom + 1)
  const wanted = places.slice(left, right + 1)
  return lines.map((line) => wanted.map((p) => cellText(line, p, lead)).join('\t')).join('\n')
}

function cellText(line: Line, place: Place, lead: boolean): string {
  const text =
    place.head >= 0
      ? line.cells[place.head]
      : line.label || (line.group !== undefined ? 'blank' : lead ? line.cells[0] : '')
  return (text ?? '').startsWith('data:') ? '' : (text ?? '').replace(/[\t\r\n]+/g, ' ')
}
