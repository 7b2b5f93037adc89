<script setup lang="ts">
import { computed, nextTick, toRef, useTemplateRef, watch } from 'vue'
import type { Document, Line, RunResult } from '../../api/client'
import { formatCount } from '../../words'
import { pageLines as runPage, type Run } from '../useRun'
import { asText, mostCopied } from './copy'
import { headHeight, headOf, lineHeight, noteOf } from './layout'
import LedgerHead from './LedgerHead.vue'
import LedgerLine from './LedgerLine.vue'
import { useCells } from './useCells'
import { useColumns, type Place } from './useColumns'
import { useResize } from './useResize'
import { useRows } from './useRows'

/** What was chosen in the ledger: a line, and a column of the run (-1: the line as a whole). */
export interface Selection {
  line: Line
  head: number
}

/** The lines of a view: groups with their totals, records, and the grand total always in sight. */
const props = defineProps<{
  run: Run
  result: RunResult
  document: Document
  selected: number
  ticked: ReadonlySet<string>
  tickable: boolean
}>()
const emit = defineEmits<{
  toggle: [group: string]
  select: [column: number]
  choose: [selection: Selection]
  sort: [column: number]
  resize: [column: number, width: number | undefined]
  move: [from: number, to: number]
  open: [record: string]
  tick: [records: string[]]
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
  slots,
  first,
  at,
  onScroll,
  onWheel,
  bringIntoSight,
  toTop,
  pageLines,
} = useRows(scroller, total, { top: headHeight, bottom: lineHeight + 2 })
const { places, grouped, lead, template, least, inSight } = useColumns(
  toRef(props, 'result'),
  dragged,
  width,
  scrolledAside,
)
const { active, block, within, go, all, reset } = useCells(
  total,
  computed(() => places.value.length),
)
const groups = computed(() => {
  const labels = props.result.levels.map((l) => l.label)
  if (lead.value && props.result.columns[0]) labels.push(props.result.columns[0].heading)
  return labels.join(' / ')
})
/** The active cell's id, while it is drawn. */
const drawn = computed(() => {
  const { row, place } = active.value
  return row >= range.value.from &&
    row < range.value.to &&
    inSight.value.includes(place) &&
    props.run.lineAt(row)
    ? `cell-${row}-${place}`
    : undefined
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
  },
  { immediate: true },
)
watch(
  () => props.document,
  () => {
    reset()
    toTop()
  },
)

/** The document's column at a place; -1 for the groups' own. */
function docColumn(place: number): number {
  const p = places.value[place]
  if (!p) return -1
  return p.column ? p.column.index : lead.value ? (props.result.columns[0]?.index ?? -1) : -1
}
function attend() {
  const index = docColumn(active.value.place)
  if (index >= 0) emit('select', index)
  const line = props.run.lineAt(active.value.row)
  if (line) emit('choose', { line, head: places.value[active.value.place]?.head ?? -1 })
}
async function move(row: number, place: number, on: boolean) {
  go(row, place, on)
  bringIntoSight(active.value.row)
  const p = places.value[active.value.place]
  if (p && scroller.value && p.left === undefined && p.right === undefined) {
    const x = places.value.slice(0, active.value.place).reduce((sum, q) => sum + q.width, 0)
    const held = places.value.reduce((sum, q) => sum + (q.left === undefined ? 0 : q.width), 0)
    if (x < scroller.value.scrollLeft + held) scroller.value.scrollLeft = x - held
    else if (x + p.width > scroller.value.scrollLeft + scroller.value.clientWidth)
      scroller.value.scrollLeft = x + p.width - scroller.value.clientWidth
  }
  attend()
  await nextTick()
}
function tick(row: number, place: number) {
  const b = block.value
  const records: string[] = []
  for (let r = b.several ? b.top : row; r <= (b.several ? b.bottom : row); r++)
    records.push(props.run.lineAt(r)?.record ?? '')
  if (records.some(Boolean)) emit('tick', records.filter(Boolean))
  else if (place === 0) act(row)
}
function act(row: number) {
  const line = props.run.lineAt(row)
  if (line?.group !== undefined) emit('toggle', line.group)
  else if (line?.record) emit('open', line.record)
}
async function copy() {
  const b = block.value
  const count = b.bottom - b.top + 1
  if (count > mostCopied)
    return emit(
      'say',
      `At most ${formatCount(mostCopied)} lines are copied at once; ${formatCount(count)} are chosen.`,
    )
  try {
    await navigator.clipboard.writeText(
      await asText(props.run, places.value, b.top, b.bottom, b.left, b.right, lead.value),
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
    End: [total.value - 1, place],
  }
  const to = moves[event.key]
  if (to) void move(...to, event.shiftKey)
  else if (event.key === ' ') tick(row, place)
  else if (event.key === 'Enter') act(row)
  else return
  event.preventDefault()
}
function onCell(row: number, place: number, event: MouseEvent) {
  go(row, place, event.shiftKey)
  attend()
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
defineExpose({ focus: () => scroller.value?.focus() })
</script>

<template>
  <div
    ref="scroller"
    :role="grouped ? 'treegrid' : 'grid'"
    tabindex="0"
    class="relative h-full overflow-auto bg-sheet"
    aria-label="Ledger"
    data-ledger
    aria-multiselectable="true"
    :aria-rowcount="result.total + 2"
    :aria-colcount="places.length"
    :aria-activedescendant="drawn"
    @keydown="onKey"
    @keypress.space.prevent
    @scroll.passive="onScroll"
    @wheel="onWheel"
  >
    <div :style="{ minWidth: `${least}px` }" class="flex min-h-full flex-col">
      <LedgerHead
        :places="places"
        :in-sight="inSight"
        :template="template"
        :groups="groups"
        :document="document"
        :selected="selected"
        @select="emit('select', $event)"
        @sort="emit('sort', $event)"
        @move="(from, to) => emit('move', from, to)"
        @fit="fit"
        @grab="grab"
      />
      <div v-if="pinned.length" class="sticky top-[40px] z-10 h-0" aria-hidden="true">
        <div class="border-b border-rule shadow-sm">
          <LedgerLine
            v-for="line in pinned"
            :key="line.group"
            :line="line"
            :places="places"
            :in-sight="inSight"
            :lead="lead"
            :template="template"
            :levels="result.levels.length"
            @toggle="emit('toggle', $event)"
          />
        </div>
      </div>
      <div role="rowgroup" class="relative shrink-0" :style="{ height: `${tall}px` }">
        <!-- Places stand on boxes of their own: a line that only moves is not drawn again. -->
        <div
          v-for="(row, slot) in slots"
          :key="slot"
          role="presentation"
          class="absolute inset-x-0 h-[30px] [contain:strict]"
          :style="{ top: `${at(row)}px` }"
        >
          <LedgerLine
            v-if="run.lineAt(row)"
            :line="run.lineAt(row)!"
            :places="places"
            :in-sight="inSight"
            :lead="lead"
            :template="template"
            :levels="result.levels.length"
            :row="row"
            :active="row === active.row ? active.place : -1"
            :within="
              block.several && row >= block.top && row <= block.bottom
                ? (place) => within(row, place)
                : undefined
            "
            :ticked="ticked.has(run.lineAt(row)!.record ?? '')"
            :tickable="tickable"
            @toggle="emit('toggle', $event)"
            @open="emit('open', $event)"
            @tick="emit('tick', [$event])"
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
      <p v-if="!result.tally.all" class="quiet px-3 py-8 font-serif text-base" data-empty>
        There are no {{ result.tally.many }} yet. They appear here once the database has some.
      </p>
      <div class="sticky bottom-0 z-10 mt-auto">
        <LedgerLine
          class="!border-t-2 !border-b-0 !border-ink"
          :line="result.grand"
          :places="places"
          :in-sight="inSight"
          :lead="lead"
          :template="template"
          :levels="result.levels.length"
          data-grand
          @cell="(place) => emit('choose', { line: result.grand, head: places[place]?.head ?? -1 })"
        />
      </div>
    </div>
  </div>
</template>
