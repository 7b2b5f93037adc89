import { computed, type Ref } from 'vue'
import type { ColumnHead, RunResult } from '../../api/client'
import { groupsWidth, leads, widthOf } from './layout'

/** A place of the ledger from left to right: the groups' own column, or one of the run. */
export interface Place {
  /** Index among the columns of the run; -1 for the groups' own. */
  head: number
  column: ColumnHead | null
  width: number
  /** Its author set the width; others share what room is left. */
  fixed: boolean
  /** Distance from the left or right edge that it keeps while others are scrolled away, in CSS pixels. */
  left?: number
  right?: number
}

/** How the columns of a run stand side by side, and which of them are in sight. */
export function useColumns(
  result: Ref<RunResult>,
  dragged: Ref<{ column: number; width: number } | null>,
  width: Ref<number>,
  scrolled: Ref<number>,
) {
  const columns = computed(() => result.value.columns)
  const levels = computed(() => result.value.levels.length)
  const grouped = computed(() => levels.value > 0)
  /** The first column of records stands in the groups' column. */
  const lead = computed(() => leads(columns.value, levels.value))
  const crossed = computed(() => columns.value.some((c) => c.across))

  const places = computed<Place[]>(() => {
    const own: Place = { head: -1, column: null, width: groupsWidth(result.value), fixed: false }
    const list = columns.value.flatMap<Place>((column, head) => {
      if (lead.value && head === 0) return []
      const now = dragged.value?.column === column.index ? dragged.value.width : 0
      return [
        {
          head,
          column,
          width: now || widthOf(column, result.value.grand.cells[head] ?? ''),
          fixed: now > 0 || column.width > 0,
        },
      ]
    })
    const all = grouped.value ? [own, ...list] : list
    return widthOfAll(all) > width.value ? pinned(all, crossed.value) : all
  })
  const template = computed(() =>
    places.value.map((p) => (p.fixed ? `${p.width}px` : `minmax(${p.width}px, ${p.width}fr)`)).join(' '),
  )
  const least = computed(() => widthOfAll(places.value))
  /** Places to draw: those in sight, a few more, and those that never leave it. */
  const inSight = computed(() => {
    const from = scrolled.value
    if (least.value <= width.value) return places.value.map((_, i) => i)
    const out: number[] = []
    let x = 0
    places.value.forEach((p, i) => {
      const near = x + p.width > from - width.value / 2 && x < from + 1.5 * width.value
      if (near || p.left !== undefined || p.right !== undefined) out.push(i)
      x += p.width
    })
    return out
  })
  return { places, grouped, lead, crossed, template, least, inSight }
}

const widthOfAll = (places: readonly Place[]) => places.reduce((sum, p) => sum + p.width, 0)

/** How wide the totals of lines may be to stay in sight, in CSS pixels. */
const mostPinned = 320

/** Gives frozen columns, and the totals of lines in a crosstab, the edge they keep to. */
function pinned(places: Place[], crossed: boolean): Place[] {
  let left = 0
  let right = 0
  for (const p of places) {
    if (p.column && !p.column.frozen) continue
    p.left = left
    left += p.width
  }
  if (crossed) {
    const all = places.filter((p) => p.column && !p.column.across?.length).reverse()
    // Where several totals would take the room, they scroll with the others.
    if (all.reduce((sum, p) => sum + p.width, 0) > mostPinned) return places
    for (const p of all) {
      p.right = right
      right += p.width
    }
  }
  return places
}
