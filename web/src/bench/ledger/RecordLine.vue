<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Line } from '../../api/client'
import CellMarks from './CellMarks.vue'
import { placeOf, type DrawnPlace, type LineLayout, type Place } from './useColumns'

/**
 * The line of a record. Thousands pass by in a second of scrolling, so what does not change from one
 * to the next is worked out once for all of them, in their layout.
 */
const props = defineProps<{
  line: Line
  layout: LineLayout
  row: number
  active: number
  /** Whether a cell lies in the block that was chosen. */
  within?: (place: number) => boolean
  ticked: boolean
  tickable: boolean
  /** The cells that newer records have changed; all, if null. */
  newer?: ReadonlySet<number> | null
}>()
const emit = defineEmits<{
  cell: [place: number, event: MouseEvent]
  open: [record: string]
  tick: [record: string]
}>()

/** The pointer is on it: only then it offers what the keys do. */
const pointedAt = ref(false)
const record = computed(() => props.line.record ?? '')
/** Cells with nothing but text; bars, mixes and pictures are rare. */
const plain = computed(() => !props.line.bars?.length && !props.line.mixes?.length)
const text = (p: Place) =>
  (p.column ? props.line.cells[p.head] : props.layout.lead ? props.line.cells[0] : '') ?? ''
/** Classes of a cell. Cutting texts costs the browser much, and is asked for only where one may be too long. */
function classOf(d: DrawnPlace): string {
  let out = d.forRecords
  if (!plain.value) out += ` ${d.forMarks}`
  else if (text(d.place).length > d.letters) out += ' truncate'
  if (props.within?.(d.i)) out += ' !bg-mulberry-wash'
  if (props.active === d.i) out += ' cell-active'
  const cell = d.place.column ? d.place.head : 0
  if (props.newer === null || props.newer?.has(cell)) out += ' cell-newer'
  return out
}
</script>

<template>
  <div
    role="row"
    class="grid h-[30px] border-b border-rule"
    :class="ticked ? 'bg-mulberry-wash' : 'bg-sheet'"
    :style="layout.style"
    :aria-rowindex="row + 2"
    :aria-level="layout.levels ? line.level : undefined"
    :aria-selected="tickable && record ? ticked : undefined"
    :data-level="line.level"
    @click="emit('cell', placeOf($event), $event)"
    @pointerenter="pointedAt = true"
    @pointerleave="pointedAt = false"
    @mousedown="$event.shiftKey && $event.preventDefault()"
    @dblclick="record && emit('open', record)"
  >
    <div
      v-for="d in layout.drawn"
      :id="active === d.i ? `cell-${row}-${d.i}` : undefined"
      :key="d.i"
      role="gridcell"
      :aria-colindex="d.i + 1"
      :class="classOf(d)"
      :style="d.styleOfRecords"
      :data-cell="d.place.column ? d.place.column.fn || 'value' : undefined"
    >
      <template v-if="plain && d.place.column?.type !== 'picture'">{{ text(d.place) }}</template>
      <CellMarks v-else :line="line" :place="d.place" :text="text(d.place)" />
      <span
        v-if="d.i === 0 && record && (pointedAt || ticked)"
        class="absolute inset-y-0 right-1 flex items-center gap-2 bg-inherit pl-2"
      >
        <button
          v-if="tickable"
          class="link text-xs"
          tabindex="-1"
          :aria-pressed="ticked"
          data-tick
          title="Space"
          @click.stop="emit('tick', record)"
        >
          {{ ticked ? '✓ ticked' : 'tick' }}
        </button>
        <button class="link text-xs" tabindex="-1" data-open title="Enter" @click.stop="emit('open', record)">
          open
        </button>
      </span>
    </div>
  </div>
</template>
