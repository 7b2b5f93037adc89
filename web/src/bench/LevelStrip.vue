<script setup lang="ts">
import { computed } from 'vue'
import { useKeyHints } from '../shell/commands'
import { useBench } from './bench'
import LevelChoice from './LevelChoice.vue'

/** How deep the groups are open, and whether they are drawn. */
const { run, opening, set, history, selection } = useBench()
const hint = useKeyHints()
const crossed = computed(() => !!history.shown.value.across?.length)
const levels = computed(() => run.result.value?.levels ?? [])
</script>

<template>
  <nav
    v-if="levels.length || crossed"
    class="flex items-center gap-4 border-b border-rule bg-sheet px-5 py-1.5 text-[13px] whitespace-nowrap max-md:px-3"
    aria-label="Show down to"
  >
    <LevelChoice
      v-if="levels.length"
      :levels="levels"
      :depth="opening.now.value.depth"
      :record="crossed ? undefined : set.one"
      @show="opening.showDownTo"
    >
      <span v-if="hint('open level')" class="quiet shrink-0 max-md:hidden"
        ><kbd class="key">{{ hint('close level') }}</kbd
        >{{ ' ' }} <kbd class="key">{{ hint('open level') }}</kbd></span
      ></LevelChoice
    >
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
