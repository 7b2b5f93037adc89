<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import type { Document } from '../../api/client'
import { useReorder } from '../../shell/useReorder'
import type { SelectionActions } from '../useSelection'
import { acrossOf, headOf, noteOf } from './layout'
import type { Columns, Place } from './useColumns'

/**
 * The headings: a click looks at a column, a drag moves it, its edge sets the width. A crosstab has two
 * lines of them: the groups across above their totals.
 */
const props = defineProps<{
  columns: Columns
  groups: string
  document: Document
  selection: SelectionActions
}>()
const emit = defineEmits<{ fit: [place: Place]; grab: [event: PointerEvent, column: number] }>()
const { places, inSight, template, crossed } = props.columns
const selected = props.selection.column

const drawn = computed(() => inSight.value.map((i) => ({ i, place: places.value[i]! })))
/** Neighbours under the same group across, with the places from the first up to the last, left out. */
const spans = computed(() => {
  const out: { from: number; to: number; label: string; place: Place }[] = []
  if (!crossed.value) return out
  places.value.forEach((place, i) => {
    if (!place.column) return
    const label = acrossOf(place.column)
    const last = out.at(-1)
    const pinned = place.right !== undefined
    const together = last?.to === i && last.label === label && (last.place.right !== undefined) === pinned
    // A heading over several that keep to the right edge keeps to where the last of them does.
    if (together) Object.assign(last, { to: i + 1, place: pinned ? place : last.place })
    else out.push({ from: i, to: i + 1, label, place })
  })
  const near = new Set(inSight.value)
  return out.filter((s) =>
    Array.from({ length: s.to - s.from }, (_, j) => s.from + j).some((i) => near.has(i)),
  )
})

const root = useTemplateRef('root')
/** Indices of the document's columns that can stand elsewhere, in the order of their places. */
const movable = computed(() =>
  places.value.flatMap((p, i) => (p.column && p.column.index >= 0 && !p.column.across ? [i] : [])),
)
const over = ref(-1)
const docIndex = (place: number) => places.value[movable.value[place] ?? -1]?.column?.index ?? -1
let begun = -1
const reorder = useReorder(
  root,
  () => movable.value.length,
  (from, to) => {
    if (begun < 0) begun = from
    over.value = to
  },
  () => {
    const [from, to] = [docIndex(begun), docIndex(over.value)]
    begun = over.value = -1
    if (from >= 0 && to >= 0 && from !== to) props.selection.move(from, to)
  },
)
/** Where a place stands among those that can be moved; -1 for one that cannot. */
const rank = (i: number) => movable.value.indexOf(i)

const sortWord = (field: string) => {
  const first = props.document.sort?.[0]
  return first?.field !== field ? 'none' : first.desc ? 'descending' : 'ascending'
}
const sortMarks = { none: '', ascending: '↑', descending: '↓' }
const edge = (p: Place) => ({
  left: p.left === undefined ? undefined : `${p.left}px`,
  right: p.right === undefined ? undefined : `${p.right}px`,
})
/** Width of what keeps to the left edge. */
const heldLeft = computed(() =>
  places.value.reduce((sum, p) => sum + (p.left === undefined ? 0 : p.width), 0),
)
const held = (p: Place) => (p.left ?? p.right) !== undefined
</script>

<template>
  <div
    ref="root"
    role="row"
    aria-rowindex="1"
    class="sticky top-0 z-20 grid h-[40px] border-b border-rule bg-paper"
    :class="crossed ? 'grid-rows-[20px_20px]' : 'grid-rows-[40px]'"
    :style="{ gridTemplateColumns: template }"
  >
    <div
      v-for="s in spans"
      :key="`${s.from} ${s.label}`"
      class="row-start-1 overflow-clip border-b border-rule bg-paper px-3 leading-5 font-medium text-mute"
      :class="[s.from > 0 && 'border-l', held(s.place) && 'sticky z-10']"
      :style="{ gridColumn: `${s.from + 1} / ${s.to + 1}`, ...edge(s.place) }"
      aria-hidden="true"
      data-across
    >
      <!-- Stays in sight as long as one of its columns is. -->
      <span class="sticky inline-block max-w-full truncate" :style="{ left: `${heldLeft + 12}px` }">{{
        s.label
      }}</span>
    </div>
    <template v-for="{ i, place } in drawn" :key="i">
      <div
        v-if="!place.column"
        role="columnheader"
        :aria-colindex="i + 1"
        class="sticky z-10 row-span-full flex items-center bg-paper px-3 text-mute"
        :style="{ gridColumn: i + 1, ...edge(place) }"
        :title="groups"
      >
        <span class="truncate">{{ groups }}</span>
      </div>
      <div
        v-else
        role="columnheader"
        :aria-colindex="i + 1"
        :aria-sort="sortWord(place.column.field)"
        :aria-label="crossed ? `${headOf(place.column)}, ${noteOf(place.column)}` : undefined"
        class="relative flex min-w-0 flex-col justify-center border-b-2 bg-paper"
        :class="[
          crossed ? 'row-start-2' : 'row-span-full',
          place.narrow ? 'px-1 text-xs' : 'px-3',
          (place.column.numeric || place.column.figures) && 'text-right',
          place.column.index >= 0 && place.column.index === selected
            ? 'border-mulberry text-mulberry'
            : 'border-transparent text-mute',
          held(place) && '!sticky z-10',
          rank(i) >= 0 && over === rank(i) && 'bg-mulberry-wash',
        ]"
        :style="{ gridColumn: i + 1, ...edge(place) }"
        :data-place="rank(i) >= 0 ? rank(i) : undefined"
      >
        <button
          class="max-w-full truncate leading-5 font-medium"
          :class="place.column.numeric || place.column.figures ? 'self-end' : 'self-start'"
          tabindex="-1"
          :title="`${place.column.heading}: click to look at it, double-click to sort, drag to move`"
          @pointerdown="rank(i) >= 0 && reorder.grab($event, rank(i))"
          @click="selection.chooseColumn(place.column.index)"
          @dblclick="selection.sortBy(place.column.index)"
        >
          {{ crossed ? noteOf(place.column) : headOf(place.column) }}
          {{ place.column.values ? sortMarks[sortWord(place.column.field)] : '' }}
        </button>
        <span
          v-if="!crossed && noteOf(place.column)"
          class="block truncate text-xs leading-4"
          :title="noteOf(place.column)"
          >{{ noteOf(place.column) }}</span
        >
        <span
          v-if="!place.narrow"
          class="absolute inset-y-1 right-0 w-2 cursor-col-resize touch-none border-r border-rule hover:border-mulberry"
          data-edge
          title="Drag to set the width; double-click to fit what is shown"
          @pointerdown.stop="emit('grab', $event, place.column.index)"
          @dblclick.stop="emit('fit', place)"
        ></span>
      </div>
    </template>
  </div>
</template>
