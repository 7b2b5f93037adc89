<script setup lang="ts">
import { computed } from 'vue'
import type { Line } from '../../api/client'
import { formatCount } from '../../words'
import type { LineLayout, Place } from './useColumns'

/** One line: a group with its totals, a record, or the grand total. */
const props = defineProps<{
  line: Line
  layout: LineLayout
  row?: number
  active?: number
  /** Whether a cell lies in the block that was chosen. */
  within?: (place: number) => boolean
  ticked?: boolean
  tickable?: boolean
}>()
const emit = defineEmits<{
  toggle: [group: string]
  cell: [place: number, event: MouseEvent]
  open: [record: string]
  tick: [record: string]
}>()

const kind = computed(() =>
  props.line.level === 0 ? 'grand' : props.line.level <= props.layout.levels ? 'group' : 'record',
)
const grouped = computed(() => props.layout.levels > 0)
const indent = computed(() => `${12 + 18 * Math.max(0, props.line.level - 1)}px`)
const ground = computed(
  () =>
    ({
      grand: 'bg-sheet font-semibold',
      group: props.line.level === 1 ? 'bg-pine-wash font-semibold' : 'bg-pine-faint font-medium',
      record: props.ticked ? 'bg-mulberry-wash' : 'bg-sheet',
    })[kind.value],
)
const drawn = computed(() => props.layout.inSight.map((i) => ({ i, place: props.layout.places[i]! })))
const text = (p: Place) => props.line.cells[p.head] ?? ''
const mixOf = (cell: number) => props.line.mixes?.find((m) => m.cell === cell)
const barOf = (cell: number) => props.line.bars?.find((b) => b.cell === cell)
const cellId = (place: number) => (props.row === undefined ? undefined : `cell-${props.row}-${place}`)
const counts = computed(
  () =>
    `${formatCount(props.line.count ?? 0)}${props.line.others === undefined ? '' : ` / ${formatCount(props.line.others)}`}`,
)
const right = (p: Place) => !!p.column && (kind.value === 'record' ? p.column.numeric : p.column.figures)
const edge = (p: Place) => ({
  left: p.left === undefined ? undefined : `${p.left}px`,
  right: p.right === undefined ? undefined : `${p.right}px`,
})
const tick = () => props.line.record && emit('tick', props.line.record)
</script>

<template>
  <div
    role="row"
    class="group/line grid h-[30px] border-b border-rule"
    :class="ground"
    :style="{ gridTemplateColumns: layout.template }"
    :aria-rowindex="row === undefined ? undefined : row + 2"
    :aria-level="grouped && line.level ? line.level : undefined"
    :aria-selected="tickable && line.record ? !!ticked : undefined"
    :aria-expanded="kind === 'group' ? !!line.open : undefined"
    :data-level="line.level"
    :data-group="line.group"
    @dblclick="line.record && emit('open', line.record)"
  >
    <div
      v-for="{ i, place } in drawn"
      :id="cellId(i)"
      :key="i"
      role="gridcell"
      :aria-colindex="i + 1"
      class="relative min-w-0 truncate bg-inherit"
      :class="[
        place.column ? 'px-3 leading-[29px]' : 'flex items-center gap-2 pr-2',
        right(place) && 'text-right',
        place.column?.whole && '!bg-paper font-medium',
        place.column?.part && 'quiet',
        (place.left ?? place.right) !== undefined && 'sticky z-[5]',
        within?.(i) && '!bg-mulberry-wash',
        active === i && 'cell-active',
      ]"
      :style="{
        gridColumn: i + 1,
        ...edge(place),
        paddingLeft: place.column ? undefined : kind === 'grand' ? '12px' : indent,
      }"
      :title="place.column && !text(place).startsWith('data:') ? text(place) : undefined"
      :data-cell="place.column ? place.column.fn || 'value' : undefined"
      @mousedown="$event.shiftKey && $event.preventDefault()"
      @click="emit('cell', i, $event)"
    >
      <template v-if="!place.column">
        <button
          v-if="kind === 'group'"
          class="flex min-w-0 items-center gap-2"
          tabindex="-1"
          :title="line.open ? 'Close' : 'Open'"
          @click="emit('toggle', line.group!)"
        >
          <span class="h-4 w-[3px] shrink-0" :class="[line.level === 1 ? 'bg-pine' : 'bg-pine/50']"></span>
          <span
            class="truncate"
            :class="[line.level === 1 && 'font-serif text-[15px]', !line.label && 'quiet italic']"
            >{{ line.label || 'blank' }}</span
          >
        </button>
        <span v-else class="truncate">{{
          kind === 'grand' ? line.label : layout.lead ? line.cells[0] : ''
        }}</span>
        <span v-if="kind !== 'record'" class="quiet shrink-0 text-xs font-normal">{{ counts }}</span>
      </template>
      <img
        v-else-if="place.column.type === 'picture' && text(place).startsWith('data:image/')"
        :src="text(place)"
        alt=""
        class="my-0.5 h-6"
      />
      <template v-else-if="!grouped && i === 0 && kind === 'grand' && !text(place)"
        >{{ line.label }} <span class="quiet text-xs font-normal">{{ counts }}</span></template
      >
      <template v-else>
        <span
          v-if="barOf(place.head)"
          class="absolute inset-y-[5px] right-2 bg-bar opacity-60"
          :style="{ width: `calc((100% - 16px) * ${Math.abs(barOf(place.head)!.part)})` }"
          data-bar
        ></span>
        <span class="relative"
          ><span
            v-if="mixOf(place.head)"
            class="mr-1.5 text-xs font-normal text-honey"
            data-mix
            :title="`An average of prices from ${mixOf(place.head)!.low} to ${mixOf(place.head)!.high}`"
            >mix</span
          >{{ text(place) }}</span
        >
      </template>
      <span
        v-if="line.record && i === 0"
        class="absolute inset-y-0 right-1 hidden items-center gap-2 bg-inherit pl-2 group-hover/line:flex"
        :class="ticked && '!flex'"
      >
        <button
          v-if="tickable"
          class="link text-xs"
          tabindex="-1"
          :aria-pressed="!!ticked"
          data-tick
          title="Space"
          @click.stop="tick"
        >
          {{ ticked ? '✓ ticked' : 'tick' }}
        </button>
        <button
          class="link text-xs"
          tabindex="-1"
          data-open
          title="Enter"
          @click.stop="emit('open', line.record)"
        >
          open
        </button>
      </span>
    </div>
  </div>
</template>

<style scoped>
.cell-active {
  box-shadow: inset 0 0 0 1.5px var(--color-mulberry);
}
</style>
