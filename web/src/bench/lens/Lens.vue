<script setup lang="ts">
import { computed } from 'vue'
import type { Document, Field, RunResult } from '../../api/client'
import type { Acts } from '../useActs'
import ColumnLens from './ColumnLens.vue'
import FigureLens from './FigureLens.vue'
import RecordLens from './RecordLens.vue'

/** Looks at whatever is selected: a column, a group or one of its figures, a record. */
const props = defineProps<{
  set: string
  document: Document
  live: Document
  result: RunResult
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  acts: Acts
}>()
const emit = defineEmits<{ change: [doc: Document]; filter: [anchor: HTMLElement]; open: [record: string] }>()
const look = computed(() => props.acts.look.value)
const field = computed(() => props.acts.field.value)
const column = computed(() => props.document.columns[props.acts.selected.value])
</script>

<template>
  <aside class="overflow-auto border-l border-rule bg-paper p-4" aria-label="Lens">
    <p v-if="look && field" class="quiet mb-2 flex text-xs">
      <button class="link ml-auto" data-to-column @click="acts.lookAtColumn">
        {{ column?.heading || field.label }}, the column
      </button>
    </p>
    <RecordLens
      v-if="look?.line.record"
      :set="set"
      :look="look"
      :result="result"
      :by-path="byPath"
      @open="emit('open', $event)"
      @tick="acts.tick([$event])"
      @keep-value="acts.keepValue"
      @leave-out="acts.leaveValueOut"
    />
    <FigureLens
      v-else-if="look"
      :document="live"
      :result="result"
      :look="look"
      @records="acts.seeRecords"
      @keep="acts.keepAll"
      @leave-out="acts.leaveOut"
      @chart="acts.chart"
    />
    <ColumnLens
      v-else-if="field"
      :document="document"
      :live="live"
      :result="result"
      :field="field"
      :fields="fields"
      :index="acts.selected.value"
      @change="emit('change', $event)"
      @keep-only="emit('filter', $event)"
      @keep-value="acts.keepValue(field, $event)"
      @leave-out="acts.leaveValueOut(field, $event)"
      @group="acts.group"
      @sort="acts.sortBy()"
      @total="acts.total"
      @show="acts.show"
      @keep-range="acts.keepRange"
      @move="acts.move(acts.selected.value, acts.selected.value + $event)"
      @take-out="acts.takeOut"
    />
    <p v-else class="quiet">Choose a column to look at what it holds, or a line to look into it.</p>
  </aside>
</template>
