import { computed, type Ref } from 'vue'
import type { ColumnHead, RunResult } from '../../api/client'
import { carriesNothing, groupsWidth, leads, widthOf } from './layout'

/** A place of the ledger from left to right: the groups' own column, or one of the run. */
export interface Place {
  /** Index among the columns of the run; -1 for the groups' own. */
  head: number
  column: ColumnHead | null
  width: number
  /** Its author set the width; others share what room is left. */
  fixed: boolean
  /** It shows nothing now, and has made room; it is wide again once it is chosen. */
  narrow?: boolean
  /** Distance from the left or right edge that it keeps while others are scrolled away, in CSS pixels. */
  left?: number
  right?: number
}

/** A place that is drawn, with all that is the same on every line. */
export interface DrawnPlace {
  /** Index among the places. */
  i: number
  place: Place
  style: string
  styleOfRecords: string
  /** So many letters fit whatever they are; a cell with more is cut where it ends. */
  letters: number
  /** Classes of its cell on the line of a record, and of a group or the grand total. */
  forRecords: string
  forTotals: string
  /** What a record's cell has beside that where marks stand in it, which may be cut as well. */
  forMarks: string
}

/** How each line is laid out. */
export interface LineLayout {
  places: readonly Place[]
  drawn: readonly DrawnPlace[]
  style: string
  /** Levels of groups. */
  levels: number
  /** The first cell of a record stands in the groups' column. */
  lead: boolean
}

/** The place of the cell that an event on a line is of; beside its cells, the first: the line is meant. */
export function placeOf(event: Event): number {
  const cell = (event.target as HTMLElement).closest('[aria-colindex]')
  return cell ? Number(cell.getAttribute('aria-colindex')) - 1 : 0
}

/** How the columns of a run stand side by side, and which of them are in sight. */
export function useColumns(
  result: Ref<RunResult>,
  recordsShown: Ref<boolean>,
  chosen: Ref<number>,
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

  /** There is no room for what shows nothing. */
  const small = computed(() => width.value < phone)

  const places = computed<Place[]>(() => {
    // On a phone at least one figure stands beside the groups.
    const own: Place = {
      head: -1,
      column: null,
      width: Math.min(groupsWidth(result.value), Math.max(150, 0.5 * width.value)),
      fixed: false,
    }
    const list = columns.value.flatMap<Place>((column, head) => {
      if (lead.value && head === 0) return []
      if (!recordsShown.value && carriesNothing(column) && column.index !== chosen.value)
        return small.value ? [] : [{ head, column, width: narrowWidth, fixed: true, narrow: true }]
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
    return widthOfAll(all) > width.value ? pinned(all, crossed.value, width.value) : all
  })
  const template = computed(() =>
    places.value.map((p) => (p.fixed ? `${p.width}px` : `minmax(${p.width}px, ${roomFor(p)}px)`)).join(' '),
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
  /**
   * What keeps to the left edge has its place there anyway until one scrolls aside. Dozens of sticky
   * cells would cost the browser half its frames, so they become sticky only then.
   */
  const aside = computed(() => scrolled.value > 0)
  const layout = computed<LineLayout>(() => ({
    places: places.value,
    drawn: inSight.value.map((i) => drawn(i, places.value[i]!, levels.value, aside.value)),
    style: `grid-template-columns: ${template.value}`,
    levels: levels.value,
    lead: lead.value,
  }))
  return { places, grouped, lead, crossed, template, least, inSight, layout }
}

/** What a place grows to where there is room: texts may be cut, figures are not, and stay near their line's label. */
const roomFor = (p: Place) => Math.round(p.width * (p.column?.numeric || p.column?.figures ? 1.5 : 2))

/** Width of a column that has made room, in CSS pixels. */
const narrowWidth = 34

export type Columns = ReturnType<typeof useColumns>

/** Width of a wide letter, in CSS pixels. */
const widest = 9.5

function drawn(i: number, place: Place, levels: number, aside: boolean): DrawnPlace {
  const { column, right } = place
  const left = aside ? place.left : undefined
  const edges = `${left === undefined ? '' : `left: ${left}px;`}${right === undefined ? '' : `right: ${right}px;`}`
  const shared = [
    'min-w-0',
    column && 'px-3 leading-[29px]',
    column?.whole && '!bg-paper font-medium',
    column?.part && 'quiet',
  ]
  const classes = (...more: (string | false | undefined)[]) => [...shared, ...more].filter(Boolean).join(' ')
  const held = (left ?? right) !== undefined && 'sticky z-[5] bg-inherit'
  const style = `grid-column: ${i + 1};${edges}`
  return {
    i,
    place,
    style,
    // Records stand under their group, one step further in.
    styleOfRecords: column ? style : `${style}padding-left: ${12 + 18 * levels}px`,
    letters: Math.floor((place.width - (column ? 24 : 20 + 18 * levels)) / widest),
    forRecords: classes(
      held || (i === 0 && 'relative'),
      column?.numeric && 'text-right',
      !column && 'leading-[29px] pr-2',
    ),
    forTotals: classes(held || 'relative', 'truncate', column?.figures && 'text-right'),
    forMarks: held ? 'truncate' : 'relative truncate',
  }
}

const widthOfAll = (places: readonly Place[]) => places.reduce((sum, p) => sum + p.width, 0)

/** Narrower ledgers than this are read on a phone, in CSS pixels. */
const phone = 640

/** How much of the width the totals of lines may take where they all stay in sight. */
const mostPinned = 0.45

/** Gives frozen columns, and the totals of lines in a crosstab, the edge they keep to. */
function pinned(places: Place[], crossed: boolean, width: number): Place[] {
  let left = 0
  let right = 0
  for (const p of places) {
    if (p.column && !p.column.frozen) continue
    p.left = left
    left += p.width
  }
  if (crossed) {
    const whole = (p: Place) => !!p.column && !p.column.across?.length
    const all = places.filter(whole)
    const fits = (list: readonly Place[]) => widthOfAll(list) <= mostPinned * width
    const some = width < phone ? [] : fits(all) ? all : all.slice(0, 1)
    // Where all of them would take the room, the first stays, and stands last; on a phone, none does.
    places = [...places.filter((p) => !some.includes(p)), ...some]
    for (const p of [...some].reverse()) {
      p.right = right
      right += p.width
    }
  }
  return places
}
