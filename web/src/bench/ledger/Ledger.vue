<script setup lang="ts">
import { computed, nextTick, ref, toRef, useTemplateRef, watch } from 'vue'
import type { Document, Line, RunResult } from '../../api/client'
import { formatCount } from '../../words'
import { pageLines as runPage, type Run } from '../useRun'
import type { SelectionActions } from '../useSelection'
import { asText, mostCopied } from './copy'
import { headHeight, headOf, lineHeight, noteOf } from './layout'
import LedgerHead from './LedgerHead.vue'
import GroupLine from './GroupLine.vue'
import RecordLine from './RecordLine.vue'
import { lineKey } from './newer'
import { linesDecidedBy } from './place'
import { useCells } from './useCells'
import { useColumns, type Place } from './useColumns'
import { useResize } from './useResize'
import { useRows } from './useRows'

/** The lines of a view: groups with their totals, records, and the grand total always in sight. */
const props = defineProps<{
  run: Run
  result: RunResult
  document: Document
  /** Lines of records are among those shown. */
  recordsShown: boolean
  selection: SelectionActions
  /** Says whether cells of a column of the run can be filled in. */
  fillable: (head: number) => boolean
}>()
const emit = defineEmits<{
  toggle: [group: string, level: number]
  resize: [column: number, width: number | undefined]
  open: [record: string]
  fill: [record: string, head: number, anchor: HTMLElement, typed?: string]
  say: [text: string]
}>()

const scroller = useTemplateRef('scroller')
const { dragged, grab } = useResize((column, width) => emit('resize', column, width))
const total = computed(() => props.result.total)
const {
  width,
  scrolledAside,
  tall,
  range,
  rows,
  first,
  at,
  boxTop,
  onScroll,
  onWheel,
  bringIntoSight,
  toTop,
  pageLines,
} = useRows(scroller, total, { top: headHeight, bottom: lineHeight + 2 })
const columns = useColumns(
  toRef(props, 'result'),
  toRef(props, 'recordsShown'),
  props.selection.column,
  dragged,
  width,
  scrolledAside,
)
const { places, grouped, lead, least, inSight, layout } = columns
/** The grand total stands after the last line, and is reached as one. */
const grandRow = total
const { active, block, within, go, all, reset } = useCells(
  computed(() => total.value + 1),
  computed(() => places.value.length),
)
const groups = computed(() => {
  const labels = props.result.levels.map((l) => l.label)
  if (lead.value && props.result.columns[0]) labels.push(props.result.columns[0].heading)
  return labels.join(' / ')
})
/** The keys have been here: only then one cell stands out. */
const used = ref(false)
/** The active cell's id, while it is drawn. */
const drawn = computed(() => {
  const { row, place } = active.value
  const there =
    row === grandRow.value ||
    (row >= range.value.from && row < range.value.to && props.run.lineAt(row) !== undefined)
  return used.value && there && inSight.value.includes(place) ? `cell-${row}-${place}` : undefined
})
/** Groups that enclose the first line in sight, kept under the heading. */
const pinned = computed(() => (first.value > 0 ? props.run.groupsAbove(first.value) : []))

watch(
  [range, () => props.result],
  () => {
    // One page more on either side, so that scrolling on finds it here.
    const from = Math.max(0, Math.floor((range.value.from - runPage / 2) / runPage))
    const to = Math.min(
      Math.floor((total.value - 1) / runPage),
      Math.floor((range.value.to + runPage / 2) / runPage),
    )
    for (let p = from; p <= to; p++) void props.run.want(p)
    props.run.look(range.value.from, range.value.to)
  },
  { immediate: true },
)
// Another width, heading or chart leaves the lines as they are: the place is kept.
watch(
  () => linesDecidedBy(props.document),
  () => {
    reset()
    toTop()
  },
)
const lineAt = (row: number) => (row === grandRow.value ? props.result.grand : props.run.lineAt(row))

/** The document's column at a place; -1 for the groups' own. */
function docColumn(place: number): number {
  const p = places.value[place]
  if (!p) return -1
  return p.column ? p.column.index : lead.value ? (props.result.columns[0]?.index ?? -1) : -1
}
function attend(passing: boolean) {
  const line = lineAt(active.value.row)
  if (!line) return
  const index = docColumn(active.value.place)
  const head = places.value[active.value.place]?.head ?? -1
  props.selection.chooseLine({ line, head }, index >= 0 ? index : undefined, passing)
}
/** The cells of a line that newer records have changed a moment ago. */
const newerIn = (line: Line) =>
  props.run.newer.value.size ? props.run.newer.value.get(lineKey(line)) : undefined
/** The place of the active cell on a line; -1 where it is not. */
const activeIn = (row: number) => (used.value && row === active.value.row ? active.value.place : -1)
/** Says which cells of a line lie in the block that was chosen. */
const withinIn = (row: number) =>
  block.value.several && row >= block.value.top && row <= block.value.bottom
    ? (place: number) => within(row, place)
    : undefined
/** What is cut says itself whole when it is pointed at. */
function sayWhole(event: MouseEvent) {
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[role=gridcell]')
  if (cell) cell.title = cell.scrollWidth > cell.clientWidth ? cell.innerText : ''
}
async function move(row: number, place: number, on: boolean) {
  go(row, place, on)
  if (active.value.row < total.value) bringIntoSight(active.value.row)
  const p = places.value[active.value.place]
  if (p && scroller.value && p.left === undefined && p.right === undefined) {
    const x = places.value.slice(0, active.value.place).reduce((sum, q) => sum + q.width, 0)
    const held = places.value.reduce((sum, q) => sum + (q.left === undefined ? 0 : q.width), 0)
    if (x < scroller.value.scrollLeft + held) scroller.value.scrollLeft = x - held
    else if (x + p.width > scroller.value.scrollLeft + scroller.value.clientWidth)
      scroller.value.scrollLeft = x + p.width - scroller.value.clientWidth
  }
  attend(true)
  await nextTick()
}
function tick(row: number, place: number) {
  const b = block.value
  const records: string[] = []
  for (let r = b.several ? b.top : row; r <= (b.several ? b.bottom : row); r++)
    records.push(props.run.lineAt(r)?.record ?? '')
  if (records.some(Boolean)) props.selection.tick(records.filter(Boolean))
  else if (place === 0) act(row)
}
function act(row: number) {
  const line = lineAt(row)
  if (line?.record) emit('open', line.record)
  else if (line?.group) emit('toggle', line.group, line.level)
  else attend(false)
}
async function copy() {
  const b = block.value
  // The grand total is none of the lines; alone it is copied as it is written.
  const lines = Math.min(b.bottom, total.value - 1) - b.top + 1
  const count = Math.max(1, lines)
  if (count > mostCopied)
    return emit(
      'say',
      `At most ${formatCount(mostCopied)} lines are copied at once; ${formatCount(count)} are chosen.`,
    )
  try {
    await navigator.clipboard.writeText(
      lines < 1
        ? places.value
            .slice(b.left, b.right + 1)
            .map((p) => (p.head < 0 ? props.result.grand.label : props.result.grand.cells[p.head]) ?? '')
            .join('\t')
        : await asText(props.run, places.value, b.top, b.top + lines - 1, b.left, b.right, lead.value),
    )
    const columns = b.right - b.left + 1
    emit(
      'say',
      b.several
        ? `${formatCount(count)} ${count === 1 ? 'line' : 'lines'} of ${columns} ${columns === 1 ? 'column' : 'columns'} copied.`
        : 'The cell is copied.',
    )
  } catch {
    emit('say', 'The browser did not allow copying. Allow it for this page, and press Ctrl C again.')
  }
}
/** A key that may begin a value: a letter, a digit or a sign, or the key that edits. */
const begins = (event: KeyboardEvent) =>
  used.value && event.key !== ' ' && (event.key.length === 1 || event.key === 'F2')
/** Fills the active cell in, if that is possible; what was typed begins the value. */
function fillCell(typed: string): boolean {
  const { row, place } = active.value
  const line = props.run.lineAt(row)
  const head = places.value[place]?.head ?? -1
  const anchor = drawn.value ? document.getElementById(drawn.value) : null
  if (!line?.record || !anchor || !props.fillable(head)) return false
  emit('fill', line.record, head, anchor, typed.length === 1 ? typed : undefined)
  return true
}
function onKey(event: KeyboardEvent) {
  const { row, place } = active.value
  if ((event.ctrlKey || event.metaKey) && !event.altKey) {
    const act = { c: copy, a: all }[event.key.toLowerCase()]
    if (!act || String(getSelection() ?? '')) return
    event.preventDefault()
    void act()
    return
  }
  if (event.altKey) return
  const page = pageLines.value
  const moves: Record<string, [number, number]> = {
    ArrowDown: [row + 1, place],
    ArrowUp: [row - 1, place],
    ArrowRight: [row, place + 1],
    ArrowLeft: [row, place - 1],
    PageDown: [row + page, place],
    PageUp: [row - page, place],
    Home: [0, place],
    End: [row === total.value - 1 ? grandRow.value : total.value - 1, place],
  }
  const to = moves[event.key]
  if (begins(event) && fillCell(event.key)) {
    event.preventDefault()
    event.stopPropagation() // it is typed, and no command
  } else if (to) void move(...to, event.shiftKey)
  else if (event.key === ' ') tick(row, place)
  else if (event.key === 'Enter') act(row)
  else return
  event.preventDefault()
}
function onCell(row: number, place: number, event: MouseEvent) {
  used.value = true
  go(row, place, event.shiftKey)
  attend(false)
  if (event.ctrlKey || event.metaKey) tick(row, -1)
}
/** As wide as the widest of what is loaded: cells, and the heading. */
function fit(place: Place) {
  const column = place.column
  if (!column) return
  const pen = document.createElement('canvas').getContext('2d')
  if (!pen || !scroller.value) return
  const { fontFamily } = getComputedStyle(scroller.value)
  const width = (text: string, font: string) => {
    pen.font = `${font} ${fontFamily}`
    return pen.measureText(text).width
  }
  let most = Math.max(
    width(`${headOf(column)} ↓`, '500 14px'),
    width(noteOf(column), '12px'),
    width(props.result.grand.cells[place.head] ?? '', '600 14px'),
  )
  for (const row of props.run.rowsRead()) {
    const text = row.cells[place.head] ?? ''
    if (!text.startsWith('data:'))
      most = Math.max(most, width(text, row.group === undefined ? '14px' : '600 14px'))
  }
  emit('resize', column.index, Math.max(40, Math.min(1200, Math.ceil(most) + 28)))
}
</script>

<template>
  <div
    ref="scroller"
    data-ledger-scroll
    :role="grouped ? 'treegrid' : 'grid'"
    tabindex="0"
    class="relative h-full overflow-auto bg-sheet [contain:strict]"
    aria-label="Ledger"
    data-ledger
    aria-multiselectable="true"
    :aria-rowcount="result.total + 2"
    :aria-colcount="places.length"
    :aria-activedescendant="drawn"
    @focusin="used = true"
    @keydown="onKey"
    @keypress.space.prevent
    @scroll.passive="onScroll"
    @mouseover.passive="sayWhole"
    @wheel="onWheel"
  >
    <div :style="{ minWidth: `${least}px` }" class="flex min-h-full flex-col">
      <LedgerHead
        :columns="columns"
        :groups="groups"
        :document="document"
        :selection="selection"
        @fit="fit"
        @grab="grab"
      />
      <div v-if="pinned.length" class="sticky top-[40px] z-10 h-0" aria-hidden="true">
        <div class="border-b border-rule shadow-sm">
          <GroupLine
            v-for="line in pinned"
            :key="line.group"
            :line="line"
            :layout="layout"
            @toggle="emit('toggle', $event, line.level)"
          />
        </div>
      </div>
      <div role="rowgroup" class="relative shrink-0" :style="{ height: `${tall}px` }">
        <!-- Each line has the box that its number has among as many: on scrolling, what leaves makes room
             for what comes, and nothing else is drawn again. Boxes stand in the order of the lines, as
             screen readers read them. -->
        <div role="presentation" class="absolute inset-x-0" :style="`top: ${boxTop}px`">
          <div
            v-for="row in rows"
            :key="row % rows.length"
            role="presentation"
            class="absolute inset-x-0 h-[30px] [contain:strict]"
            :style="`top: ${at(row)}px`"
          >
            <RecordLine
              v-if="run.lineAt(row)?.group === undefined && run.lineAt(row)"
              :line="run.lineAt(row)!"
              :layout="layout"
              :row="row"
              :active="activeIn(row)"
              :within="withinIn(row)"
              :ticked="selection.ticked.value.has(run.lineAt(row)!.record ?? '')"
              :tickable="selection.tickable.value"
              :newer="newerIn(run.lineAt(row)!)"
              @open="emit('open', $event)"
              @tick="selection.tick([$event])"
              @cell="(place, event) => onCell(row, place, event)"
            />
            <GroupLine
              v-else-if="run.lineAt(row)"
              :line="run.lineAt(row)!"
              :layout="layout"
              :row="row"
              :active="activeIn(row)"
              :within="withinIn(row)"
              :newer="newerIn(run.lineAt(row)!)"
              @toggle="emit('toggle', $event, run.lineAt(row)!.level)"
              @cell="(place, event) => onCell(row, place, event)"
            />
            <div
              v-else
              class="flex h-full items-center border-b border-rule px-3"
              aria-hidden="true"
              data-waiting
            >
              <span class="h-2 w-40 bg-bar opacity-50"></span>
            </div>
          </div>
        </div>
      </div>
      <p v-if="!result.tally.all" class="quiet px-3 py-8 font-serif text-base" data-empty>
        There are no {{ result.tally.many }} yet. They appear here once the database has some.
      </p>
      <div class="sticky bottom-0 z-10 mt-auto">
        <GroupLine
          class="!border-t-2 !border-b-0 !border-ink"
          :line="result.grand"
          :layout="layout"
          :row="grandRow"
          :active="activeIn(grandRow)"
          :newer="newerIn(result.grand)"
          data-grand
          @cell="(place, event) => onCell(grandRow, place, event)"
        />
      </div>
    </div>
  </div>
</template>
