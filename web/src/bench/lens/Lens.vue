<script setup lang="ts">
import { computed } from 'vue'
import type { Document, Field, RunResult } from '../../api/client'
import type { SelectionActions } from '../useSelectionActions'
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
  actions: SelectionActions
}>()
const emit = defineEmits<{ change: [doc: Document]; filter: [anchor: HTMLElement]; open: [record: string] }>()
const selection = computed(() => props.actions.selection.value)
const field = computed(() => props.actions.field.value)
const column = computed(() => props.document.columns[props.actions.selected.value])
</script>

<template>
  <aside class="overflow-auto border-l border-rule bg-paper p-4" aria-label="Lens">
    <p v-if="selection && field" class="quiet mb-2 flex text-xs">
      <button class="link ml-auto" data-to-column @click="actions.lookAtColumn">
        {{ column?.heading || field.label }}, the column
      </button>
    </p>
    <RecordLens
      v-if="selection?.line.record"
      :set="set"
      :selection="selection"
      :result="result"
      :by-path="byPath"
      @open="emit('open', $event)"
      @tick="actions.tick([$event])"
      @keep-value="actions.keepValue"
      @leave-out="actions.leaveValueOut"
    />
    <FigureLens
      v-else-if="selection"
      :document="live"
      :result="result"
      :selection="selection"
      @records="actions.seeRecords"
      @keep="actions.keepAll"
      @leave-out="actions.leaveOut"
      @chart="actions.chart"
    />
    <ColumnLens
      v-else-if="field"
      :document="document"
      :live="live"
      :result="result"
      :field="field"
      :fields="fields"
      :index="actions.selected.value"
      @change="emit('change', $event)"
      @keep-only="emit('filter', $event)"
      @keep-value="actions.keepValue(field, $event)"
      @leave-out="actions.leaveValueOut(field, $event)"
      @group="actions.group"
      @sort="actions.sortBy()"
      @total="actions.total"
      @show="actions.show"
      @keep-range="actions.keepRange"
      @move="actions.move(actions.selected.value, actions.selected.value + $event)"
      @take-out="actions.takeOut"
    />
    <p v-else class="quiet">Choose a column to look at what it holds, or a line to look into it.</p>
  </aside>
</template>
