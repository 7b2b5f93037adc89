<script setup lang="ts">
import { computed } from 'vue'
import type { Line } from '../../api/client'
import { formatCount } from '../../words'
import CellMarks from './CellMarks.vue'
import { placeOf, type LineLayout, type Place } from './useColumns'

/** The line of a group with its totals, or of the grand total. */
const props = defineProps<{
  line: Line
  layout: LineLayout
  row?: number
  active?: number
  /** Whether a cell lies in the block that was chosen. */
  within?: (place: number) => boolean
  /** The cells that newer records have changed, -1 for how many there are; all, if null. */
  newer?: ReadonlySet<number> | null
}>()
const emit = defineEmits<{
  toggle: [group: string]
  cell: [place: number, event: MouseEvent]
}>()

const grand = computed(() => props.line.level === 0)
const ground = computed(() => {
  if (grand.value) return 'bg-sheet font-semibold'
  return props.line.level === 1 ? 'bg-pine-wash font-semibold' : 'bg-pine-faint font-medium'
})
const indent = computed(() => `${12 + 18 * Math.max(0, props.line.level - 1)}px`)
const text = (p: Place) => props.line.cells[p.head] ?? ''
const counts = computed(() => {
  const others = props.line.others === undefined ? '' : ` / ${formatCount(props.line.others)}`
  return `${formatCount(props.line.count ?? 0)}${others}`
})
const isNewer = (p: Place) => props.newer === null || props.newer?.has(p.column ? p.head : -1)
/** Where no groups have a column, the grand total's name stands in the first cell, if that is empty. */
const named = (place: number) =>
  !props.layout.levels && place === 0 && grand.value && !text(props.layout.places[0]!)
</script>

<template>
  <div
    role="row"
    class="grid h-[30px] border-b border-rule"
    :class="ground"
    :style="layout.style"
    :aria-rowindex="row === undefined ? undefined : row + 2"
    :aria-level="layout.levels && line.level ? line.level : undefined"
    :aria-expanded="grand ? undefined : !!line.open"
    :data-level="line.level"
    :data-group="line.group"
    @click="emit('cell', placeOf($event), $event)"
    @mousedown="$event.shiftKey && $event.preventDefault()"
  >
    <div
      v-for="{ i, place, style, forTotals } in layout.drawn"
      :id="active === i ? `cell-${row}-${i}` : undefined"
      :key="i"
      role="gridcell"
      :aria-colindex="i + 1"
      :class="[
        forTotals,
        within?.(i) && '!bg-mulberry-wash',
        active === i && 'cell-active',
        isNewer(place) && 'cell-newer',
      ]"
      :style="style"
      :data-cell="place.column ? place.column.fn || 'value' : undefined"
    >
      <span
        v-if="!place.column"
        class="flex h-full min-w-0 items-center gap-2"
        :style="{ paddingLeft: grand ? '12px' : indent }"
      >
        <button
          v-if="!grand"
          class="flex min-w-0 items-center gap-2"
          tabindex="-1"
          :title="line.open ? 'Close' : 'Open'"
          @click.stop="emit('toggle', line.group!)"
        >
          <span class="h-4 w-[3px] shrink-0" :class="line.level === 1 ? 'bg-pine' : 'bg-pine/50'"></span>
          <span
            class="truncate"
            :class="[line.level === 1 && 'font-serif text-[15px]', !line.label && 'quiet italic']"
            >{{ line.label || 'blank' }}</span
          >
        </button>
        <span v-else class="truncate">{{ line.label }}</span>
        <span class="quiet shrink-0 text-xs font-normal">{{ counts }}</span>
      </span>
      <template v-else-if="named(i)"
        >{{ line.label }} <span class="quiet text-xs font-normal">{{ counts }}</span></template
      >
      <CellMarks v-else :line="line" :place="place" :text="text(place)" />
    </div>
  </div>
</template>
