<script setup lang="ts">
import { computed } from 'vue'
import type { Choices } from './choices'
import DepthSelect from './DepthSelect.vue'
import LinesChoice from './LinesChoice.vue'

/** What the lines of a spreadsheet are, and how far its groups are open. */
const choice = defineModel<Choices['spreadsheet']>({ required: true })
const props = defineProps<{
  /** What the levels of groups are called, the outermost first. */
  levels: readonly string[]
  /** Records can be taken, too; a crosstab has none. */
  records: boolean
  /** Several views are taken. */
  several: boolean
}>()
const choices = computed(() => [
  { rows: 'ledger' as const, name: 'as laid out', about: 'groups to fold, totals that follow their records' },
  ...(props.records
    ? [
        {
          rows: 'records' as const,
          name: 'plain data',
          about: 'one line for each record, groups as columns, filters',
        },
      ]
    : []),
  { rows: 'totals' as const, name: 'totals alone', about: 'one line for each group, as values' },
])
</script>

<template>
  <LinesChoice v-model="choice.rows" :choices="choices">
    <label
      v-if="choice.rows === 'ledger' && (several || levels.length)"
      class="mb-1 ml-5 flex items-baseline gap-2"
      ><span class="quiet whitespace-nowrap">down to</span
      ><DepthSelect v-model="choice.depth" :levels="levels" :records="records"
    /></label>
  </LinesChoice>
</template>
