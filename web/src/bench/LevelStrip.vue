<script setup lang="ts">
import { computed } from 'vue'
import { useKeyHints } from '../shell/commands'
import { formatCount } from '../words'
import { useBench } from './bench'

/** How deep the groups are open, and whether they are drawn. */
const { run, opening, set, history, selection } = useBench()
const hint = useKeyHints()
const crossed = computed(() => !!history.shown.value.across?.length)
const levels = computed(() => run.result.value?.levels ?? [])
const depths = computed(() => [
  { label: 'Total', groups: undefined },
  ...levels.value,
  // Cells of a crosstab stand for many records, so none has a line.
  ...(crossed.value ? [] : [{ label: set.one, groups: undefined }]),
])
const depth = computed(() => opening.now.value.depth)
</script>

<template>
  <nav
    v-if="levels.length || crossed"
    class="flex items-center gap-4 border-b border-rule bg-sheet px-5 py-1.5 text-[13px] whitespace-nowrap max-md:px-3"
    aria-label="Show down to"
  >
    <div v-if="levels.length" class="flex min-w-0 items-center gap-4 overflow-x-auto">
      <span class="quiet shrink-0 max-md:hidden">Show down to</span>
      <button
        v-for="(d, i) in depths"
        :key="`${i} ${d.label}`"
        class="shrink-0 border-b-2 pb-0.5"
        :aria-pressed="depth === i - 1"
        :class="depth === i - 1 ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
        @click="opening.showDownTo(i - 1)"
      >
        {{ d.label
        }}<template v-if="d.groups !== undefined"
          >&nbsp;<span class="quiet font-normal">{{ formatCount(d.groups) }}</span></template
        >
      </button>
      <span v-if="hint('open level')" class="quiet shrink-0 max-md:hidden"
        ><kbd class="key">{{ hint('close level') }}</kbd
        >{{ ' ' }} <kbd class="key">{{ hint('open level') }}</kbd></span
      >
    </div>
    <button
      class="ml-auto shrink-0 border-b-2 pb-0.5"
      :aria-pressed="!!history.shown.value.chart"
      :class="history.shown.value.chart ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
      data-chart-toggle
      @click="selection.toggleChart"
    >
      Chart <kbd v-if="hint('chart')" class="key max-md:hidden">{{ hint('chart') }}</kbd>
    </button>
  </nav>
</template>
