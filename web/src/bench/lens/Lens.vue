<script setup lang="ts">
import { computed } from 'vue'
import type { RunResult } from '../../api/client'
import { useBench } from '../bench'
import ColumnLens from './ColumnLens.vue'
import FigureLens from './FigureLens.vue'
import RecordLens from './RecordLens.vue'

/**
 * Looks at whatever is chosen: a column, a group or one of its figures, a record. It is there for that
 * only, and can be put away; on a phone it is a sheet from below.
 */
defineProps<{ result: RunResult }>()
const { set, history, live, byPath, selection, openRecord, tookIn } = useBench()
const chosen = computed(() => selection.chosen.value)
const field = computed(() => selection.field.value)
const column = computed(() => history.shown.value.columns[selection.column.value])
</script>

<template>
  <aside
    class="w-[296px] shrink-0 overflow-auto border-l border-rule bg-paper p-4 max-lg:w-[248px] max-md:fixed max-md:inset-x-0 max-md:bottom-0 max-md:z-30 max-md:max-h-[62dvh] max-md:w-auto max-md:border-t-3 max-md:border-l-0 max-md:border-t-ink max-md:shadow-xl"
    aria-label="Lens"
  >
    <p class="mb-1 flex text-xs">
      <button
        v-if="chosen && field"
        class="link truncate"
        data-to-column
        @click="selection.chooseColumn(selection.column.value)"
      >
        {{ column?.heading || field.label }}, the column
      </button>
      <button
        class="quiet -mt-1 -mr-1 ml-auto min-h-6 min-w-6 px-1 text-base"
        aria-label="Put the lens away"
        title="Put it away; it comes back for what is chosen next"
        data-away-lens
        @click="selection.lensShown.value = false"
      >
        ×
      </button>
    </p>
    <RecordLens
      v-if="chosen?.line.record"
      :set="set.key"
      :selection="chosen"
      :result="result"
      :by-path="byPath"
      @open="openRecord"
      @tick="selection.tick([$event])"
      @keep-value="selection.keepValue"
      @leave-out="selection.leaveValueOut"
      @filled="tookIn"
    />
    <FigureLens v-else-if="chosen" :document="live" :result="result" :selection="chosen" :acts="selection" />
    <ColumnLens v-else-if="field" :result="result" :field="field" />
  </aside>
</template>
