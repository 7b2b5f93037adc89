<script setup lang="ts">
import { computed } from 'vue'
import type { ColumnHead, Line } from '../../api/client'
import { n } from '../../words'

/** One line: a group with its totals, a record, or the grand total. */
const props = defineProps<{
  line: Line
  columns: readonly ColumnHead[]
  /** Cells before the first of columns; they belong to the groups' column. */
  skip: number
  grouped: boolean
  template: string
  levels: number
  selected: number
  row?: number
  active?: number
}>()
const emit = defineEmits<{ toggle: [group: string]; cell: [column: number]; open: [record: string] }>()

const kind = computed(() => (props.line.level === 0 ? 'grand' : props.line.level <= props.levels ? 'group' : 'record'))
const indent = computed(() => `${12 + 18 * Math.max(0, props.line.level - 1)}px`)
const looks = computed(() => ({
  'bg-pine-wash font-semibold': kind.value === 'group' && props.line.level === 1,
  'bg-pine-wash/60 font-medium': kind.value === 'group' && props.line.level > 1,
  'bg-sheet font-semibold': kind.value === 'grand',
  'bg-sheet': kind.value === 'record',
}))
const mixOf = (cell: number) => props.line.mixes?.find((m) => m.cell === cell)
const cellId = (column: number) => (props.row === undefined ? undefined : `cell-${props.row}-${column}`)
</script>

<template>
  <div
    role="row" class="group grid h-[30px] border-b border-rule" :class="looks" :style="{ gridTemplateColumns: template }"
    :aria-rowindex="row === undefined ? undefined : row + 2" :aria-level="grouped && line.level ? line.level : undefined"
    :aria-expanded="kind === 'group' ? !!line.open : undefined" :data-level="line.level" :data-group="line.group" @dblclick="line.record && emit('open', line.record)"
  >
    <div
      v-if="grouped" :id="cellId(0)" role="gridcell" aria-colindex="1" class="flex min-w-0 items-center gap-2 pr-2" :class="active === 0 && 'cell-active'"
      :style="{ paddingLeft: kind === 'grand' ? '12px' : indent }" @click="emit('cell', 0)"
    >
      <button v-if="kind === 'group'" class="flex min-w-0 items-center gap-2" tabindex="-1" :title="line.open ? 'Close' : 'Open'" @click="emit('toggle', line.group!)">
        <span class="h-4 w-[3px] shrink-0" :class="[line.level === 1 ? 'bg-pine' : 'bg-pine/50']"></span>
        <span class="truncate" :class="[line.level === 1 && 'font-serif text-[15px]', !line.label && 'quiet italic']">{{ line.label || 'blank' }}</span>
        <span class="quiet shrink-0 text-xs font-normal">{{ n(line.count ?? 0) }}<template v-if="line.others !== undefined"> / {{ n(line.others) }}</template></span>
      </button>
      <span v-else class="truncate">{{ kind === 'grand' ? `${line.label}` : skip ? line.cells[0] : '' }}<span v-if="kind === 'grand'" class="quiet ml-2 text-xs font-normal">{{ n(line.count ?? 0) }}<template v-if="line.others !== undefined"> / {{ n(line.others) }}</template></span></span>
      <button v-if="line.record" class="link ml-auto hidden text-xs group-hover:block" tabindex="-1" data-open @click.stop="emit('open', line.record)">open</button>
    </div>
    <div
      v-for="(c, i) in columns" :id="cellId(i + (grouped ? 1 : 0))" :key="i" role="gridcell" :aria-colindex="i + 1 + (grouped ? 1 : 0)"
      class="truncate px-3 leading-[29px]" :class="[(kind === 'record' ? c.numeric : c.figures) && 'text-right', c.whole && 'bg-paper font-medium', c.part && 'quiet', active === i + (grouped ? 1 : 0) && 'cell-active']"
      :title="line.cells[i + skip]?.startsWith('data:') ? undefined : line.cells[i + skip]" :data-cell="c.fn || 'value'" @click="emit('cell', i + (grouped ? 1 : 0))"
    >
      <img v-if="c.type === 'picture' && line.cells[i + skip]?.startsWith('data:image/')" :src="line.cells[i + skip]" alt="" class="my-0.5 h-6" />
      <template v-else-if="!grouped && i === 0 && kind === 'grand' && !line.cells[skip]">{{ line.label }} <span class="quiet text-xs font-normal">{{ n(line.count ?? 0) }}</span></template>
      <template v-else><button v-if="!grouped && i === 0 && line.record" class="link float-right hidden text-xs group-hover:block" tabindex="-1" data-open @click.stop="emit('open', line.record)">open</button><span v-if="mixOf(i + skip)" class="mr-1.5 text-[11px] font-normal text-honey" data-mix :title="`An average of prices from ${mixOf(i + skip)!.low} to ${mixOf(i + skip)!.high}`">mix</span>{{ line.cells[i + skip] }}</template>
    </div>
  </div>
</template>

<style scoped>
.cell-active {
  box-shadow: inset 0 0 0 1.5px var(--color-mulberry);
}
</style>
