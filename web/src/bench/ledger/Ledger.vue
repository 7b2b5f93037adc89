<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import type { Document, RunResult } from '../../api/client'
import { pageLines, type Run } from '../useRun'
import { headOf, leads, lineHeight, noteOf, widthOf } from './layout'
import LedgerLine from './LedgerLine.vue'
import { useResize } from './useResize'

/** The lines of a view: groups with their totals, records, and the grand total always in sight. */
const props = defineProps<{ run: Run; result: RunResult; document: Document; selected: number }>()
const emit = defineEmits<{ toggle: [group: string]; select: [column: number]; sort: [column: number]; resize: [column: number, width: number | undefined]; open: [record: string] }>()

const scroller = useTemplateRef('scroller')
const columns = computed(() => props.result.columns)
const lead = computed(() => leads(columns.value, props.result.levels.length))
const grouped = computed(() => props.result.levels.length > 0)
const shown = computed(() => (lead.value ? columns.value.slice(1) : columns.value))
const skipped = computed(() => (lead.value ? 1 : 0))
const treeHeading = computed(() => {
  const labels = props.result.levels.map((l) => l.label)
  if (lead.value && columns.value[0]) labels.push(columns.value[0].heading)
  return labels.join(' / ')
})
const { dragged, grab } = useResize((column, width) => emit('resize', column, width))
const treeWidth = 240
/** Each column's width, and whether its author set it; others share what room is left. */
const widths = computed(() => shown.value.map((c, i) => {
  const now = dragged.value?.column === c.index ? dragged.value.width : 0
  return { width: now || widthOf(c, props.result.grand.cells[i + skipped.value] ?? ''), fixed: now > 0 || c.width > 0 }
}))
const template = computed(() => [...(grouped.value ? [{ width: treeWidth, fixed: false }] : []), ...widths.value]
  .map((w) => (w.fixed ? `${w.width}px` : `minmax(${w.width}px, ${w.width}fr)`)).join(' '))
const least = computed(() => widths.value.reduce((a, w) => a + w.width, grouped.value ? treeWidth : 0))

const virtual = useVirtualizer(
  computed(() => ({
    count: props.result.total,
    estimateSize: () => lineHeight,
    overscan: 15,
    getScrollElement: () => scroller.value,
    scrollPaddingStart: 50,
    scrollPaddingEnd: lineHeight + 4,
  })),
)
const items = computed(() => virtual.value.getVirtualItems())
watch(items, (list) => {
  const first = list[0]
  const last = list.at(-1)
  if (!first || !last) return
  for (let p = Math.floor(first.index / pageLines); p <= Math.floor(last.index / pageLines); p++) void props.run.want(p)
})
watch(() => props.document, () => {
  active.value = { row: 0, column: 0 }
  if (scroller.value) scroller.value.scrollTop = 0
})

/** Groups that enclose the first line in sight, kept under the heading. */
const pinned = computed(() => {
  const top = Math.floor((virtual.value.scrollOffset ?? 0) / lineHeight)
  return top > 0 ? props.run.groupsAbove(top) : []
})

const active = ref({ row: 0, column: 0 })
const activeId = computed(() => `cell-${active.value.row}-${active.value.column}`)
const columnCount = computed(() => shown.value.length + (grouped.value ? 1 : 0))

/** The document's column at a position of the ledger; -1 for the groups' own. */
function docColumn(position: number): number {
  const index = position - (grouped.value ? 1 : 0)
  if (index < 0) return lead.value ? (columns.value[0]?.index ?? -1) : -1
  return shown.value[index]?.index ?? -1
}
async function go(row: number, column: number) {
  active.value = {
    row: Math.max(0, Math.min(props.result.total - 1, row)),
    column: Math.max(0, Math.min(columnCount.value - 1, column)),
  }
  virtual.value.scrollToIndex(active.value.row)
  const index = docColumn(active.value.column)
  if (index >= 0) emit('select', index)
  await nextTick()
}
function onKey(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey) return
  const { row, column } = active.value
  const page = Math.floor((scroller.value?.clientHeight ?? 600) / lineHeight) - 2
  const moves: Record<string, [number, number]> = {
    ArrowDown: [row + 1, column], ArrowUp: [row - 1, column], ArrowRight: [row, column + 1], ArrowLeft: [row, column - 1],
    PageDown: [row + page, column], PageUp: [row - page, column], Home: [0, column], End: [props.result.total - 1, column],
  }
  const move = moves[event.key]
  const line = props.run.lineAt(row)
  if (move) {
    event.preventDefault()
    void go(...move)
  } else if ((event.key === 'Enter' || event.key === ' ') && line?.group !== undefined) {
    event.preventDefault()
    emit('toggle', line.group)
  } else if (event.key === 'Enter' && line?.record) {
    event.preventDefault()
    emit('open', line.record)
  }
}
function onCell(row: number, column: number) {
  active.value = { row, column }
  const index = docColumn(column)
  if (index >= 0) emit('select', index)
}
const sortMark = (field: string) => {
  const first = props.document.sort?.[0]
  return first?.field === field ? (first.desc ? '↓' : '↑') : ''
}
</script>

<template>
  <div
    ref="scroller" :role="grouped ? 'treegrid' : 'grid'" tabindex="0" class="relative h-full overflow-auto bg-sheet" aria-label="Ledger" data-ledger
    :aria-rowcount="result.total + 2" :aria-colcount="columnCount" :aria-activedescendant="result.total ? activeId : undefined" @keydown="onKey"
  >
    <div :style="{ minWidth: `${least}px` }" class="flex min-h-full flex-col">
      <div role="row" aria-rowindex="1" class="sticky top-0 z-20 grid border-b border-rule bg-paper" :style="{ gridTemplateColumns: template }">
        <div v-if="grouped" role="columnheader" aria-colindex="1" class="truncate px-3 py-2 text-mute" :title="treeHeading">{{ treeHeading }}</div>
        <div
          v-for="(c, i) in shown" :key="i" role="columnheader" :aria-colindex="i + 1 + (grouped ? 1 : 0)"
          :aria-sort="sortMark(c.field) === '↓' ? 'descending' : sortMark(c.field) ? 'ascending' : 'none'"
          class="relative border-b-2 px-3 pt-1 pb-0.5 leading-5" :class="[(c.numeric || c.figures) && 'text-right', c.index === selected ? 'border-mulberry text-mulberry' : 'border-transparent text-mute']"
        >
          <button class="max-w-full truncate align-bottom font-medium" tabindex="-1" :title="`${c.heading}: click to look at it, double-click to sort`" @click="emit('select', c.index)" @dblclick="emit('sort', c.index)">
            {{ headOf(c) }} {{ c.values ? sortMark(c.field) : '' }}
          </button>
          <span class="block h-4 truncate text-xs leading-4" :title="noteOf(c)">{{ noteOf(c) }}</span>
          <span
            class="absolute inset-y-1 right-0 w-1.5 cursor-col-resize border-r border-rule hover:border-mulberry" data-edge title="Drag to set the width; double-click to fit"
            @pointerdown="grab($event, c.index)" @dblclick.stop="emit('resize', c.index, undefined)"
          ></span>
        </div>
      </div>
      <div v-if="pinned.length" class="sticky top-[44px] z-10 h-0" aria-hidden="true">
        <div class="border-b border-rule shadow-sm">
          <LedgerLine v-for="line in pinned" :key="line.group" :line="line" :columns="shown" :skip="skipped" :grouped="grouped" :template="template" :levels="result.levels.length" :selected="selected" @toggle="emit('toggle', $event)" />
        </div>
      </div>
      <div role="rowgroup" class="relative shrink-0" :style="{ height: `${virtual.getTotalSize()}px` }">
        <template v-for="item in items" :key="item.index">
          <LedgerLine
            v-if="run.lineAt(item.index)" :line="run.lineAt(item.index)!" :columns="shown" :skip="skipped" :grouped="grouped" :template="template"
            :levels="result.levels.length" :selected="selected" :row="item.index" :active="item.index === active.row ? active.column : -1"
            class="absolute inset-x-0 top-0" :style="{ transform: `translateY(${item.start}px)` }" @toggle="emit('toggle', $event)" @open="emit('open', $event)" @cell="onCell(item.index, $event)"
          />
        </template>
      </div>
      <p v-if="!result.tally.all" class="quiet px-3 py-8 font-serif text-base" data-empty>There are no {{ result.tally.many }} yet. They appear here once the database has some.</p>
      <div class="sticky bottom-0 z-10 mt-auto">
        <LedgerLine class="!border-t-2 !border-b-0 !border-ink bg-sheet" :line="result.grand" :columns="shown" :skip="skipped" :grouped="grouped" :template="template" :levels="result.levels.length" :selected="selected" data-grand />
      </div>
    </div>
  </div>
</template>
