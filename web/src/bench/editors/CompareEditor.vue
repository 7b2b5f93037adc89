<script setup lang="ts">
import { computed } from 'vue'
import type { Compare, Document } from '../../api/client'
import { setCompare } from '../document'

/** Puts every total beside that of another stretch of time. */
const props = defineProps<{ document: Document; fault: string }>()
const emit = defineEmits<{ change: [doc: Document] }>()

const choices: { label: string; meaning: string; compare: Compare | undefined }[] = [
  { label: 'Nothing', meaning: 'Totals stand by themselves.', compare: undefined },
  {
    label: 'The period before',
    meaning: 'As many days or whole months, right before those the filter keeps.',
    compare: { with: 'before' },
  },
  {
    label: 'The same period a year ago',
    meaning: 'The same days or months, one year earlier.',
    compare: { with: 'year_ago' },
  },
  {
    label: 'The same weeks a year ago',
    meaning: 'The weeks of the same numbers; a week 53 stands alone where that year has none.',
    compare: { with: 'weeks_ago' },
  },
  {
    label: 'All records',
    meaning: 'The same totals without any filter.',
    compare: { with: 'filter', label: 'all' },
  },
]
const chosen = computed(() => props.document.compare?.with)
</script>

<template>
  <fieldset>
    <legend class="quiet mb-2">Compare every total with that of</legend>
    <ul>
      <li v-for="c in choices" :key="c.label" class="border-b border-rule py-1.5">
        <label class="flex items-baseline gap-3">
          <input
            type="radio"
            name="compare"
            :checked="chosen === c.compare?.with"
            :data-with="c.compare?.with ?? 'nothing'"
            @change="emit('change', setCompare(document, c.compare))"
          />
          <span
            ><span class="block font-medium">{{ c.label }}</span
            ><span class="quiet text-xs">{{ c.meaning }}</span></span
          >
        </label>
      </li>
    </ul>
    <p v-if="fault && chosen" class="mt-3 text-mulberry" role="alert">{{ fault }}</p>
  </fieldset>
</template>
