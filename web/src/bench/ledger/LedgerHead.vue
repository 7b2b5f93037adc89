<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Document } from '../../api/client'
import { headOf, noteOf } from './layout'
import type { Place } from './useColumns'

/** The headings: a click looks at a column, a drag moves it, its edge sets the width. */
const props = defineProps<{
  places: readonly Place[]
  inSight: readonly number[]
  template: string
  groups: string
  document: Document
  selected: number
}>()
const emit = defineEmits<{
  select: [column: number]
  sort: [column: number]
  move: [from: number, to: number]
  fit: [place: Place]
  grab: [event: PointerEvent, column: number]
}>()

const dragged = ref(-1)
const over = ref(-1)
const drawn = computed(() => props.inSight.map((i) => ({ i, place: props.places[i]! })))
const movable = (p: Place) => !!p.column && p.column.index >= 0 && !p.column.across

const sortMark = (field: string) => {
  const first = props.document.sort?.[0]
  return first?.field === field ? (first.desc ? '↓' : '↑') : ''
}
function start(event: DragEvent, p: Place) {
  if (!movable(p)) return event.preventDefault()
  dragged.value = p.column!.index
  event.dataTransfer?.setData('text/plain', p.column!.heading)
}
function drop() {
  if (dragged.value >= 0 && over.value >= 0 && dragged.value !== over.value)
    emit('move', dragged.value, over.value)
  dragged.value = over.value = -1
}
const edge = (p: Place) => ({
  left: p.left === undefined ? undefined : `${p.left}px`,
  right: p.right === undefined ? undefined : `${p.right}px`,
})
</script>

<template>
  <div
    role="row"
    aria-rowindex="1"
    class="sticky top-0 z-20 grid h-[40px] border-b border-rule bg-paper"
    :style="{ gridTemplateColumns: template }"
    @dragend="dragged = over = -1"
  >
    <template v-for="{ i, place } in drawn" :key="i">
      <div
        v-if="!place.column"
        role="columnheader"
        :aria-colindex="i + 1"
        class="sticky z-10 truncate bg-paper px-3 py-2 text-mute"
        :style="{ gridColumn: i + 1, ...edge(place) }"
        :title="groups"
      >
        {{ groups }}
      </div>
      <div
        v-else
        role="columnheader"
        :aria-colindex="i + 1"
        :aria-sort="
          sortMark(place.column.field) === '↓'
            ? 'descending'
            : sortMark(place.column.field)
              ? 'ascending'
              : 'none'
        "
        class="relative border-b-2 bg-paper px-3 pt-1 pb-0.5 leading-5"
        :class="[
          (place.column.numeric || place.column.figures) && 'text-right',
          place.column.index === selected ? 'border-mulberry text-mulberry' : 'border-transparent text-mute',
          (place.left ?? place.right) !== undefined && '!sticky z-10',
          over === place.column.index && dragged !== over && 'bg-mulberry-wash',
        ]"
        :style="{ gridColumn: i + 1, ...edge(place) }"
        :draggable="movable(place)"
        @dragstart="start($event, place)"
        @dragover.prevent="over = movable(place) ? place.column.index : -1"
        @drop.prevent="drop"
      >
        <button
          class="max-w-full truncate align-bottom font-medium"
          tabindex="-1"
          :title="`${place.column.heading}: click to look at it, double-click to sort, drag to move`"
          @click="emit('select', place.column.index)"
          @dblclick="emit('sort', place.column.index)"
        >
          {{ headOf(place.column) }} {{ place.column.values ? sortMark(place.column.field) : '' }}
        </button>
        <span class="block h-4 truncate text-xs leading-4" :title="noteOf(place.column)">{{
          noteOf(place.column)
        }}</span>
        <span
          class="absolute inset-y-1 right-0 w-2 cursor-col-resize border-r border-rule hover:border-mulberry"
          data-edge
          title="Drag to set the width; double-click to fit what is shown"
          draggable="true"
          @dragstart.prevent.stop
          @pointerdown.stop="emit('grab', $event, place.column.index)"
          @dblclick.stop="emit('fit', place)"
        ></span>
      </div>
    </template>
  </div>
</template>
