<script setup lang="ts">
import { computed } from 'vue'
import type { Period } from '../../api/client'

const period = defineModel<Period>({ required: true })
defineProps<{ dates: string }>()

const places: { which: Period['which']; label: string }[] = [
  { which: 'past', label: 'the last' },
  { which: 'coming', label: 'the next' },
  { which: 'this', label: 'this' },
  { which: 'last', label: 'the one before this' },
  { which: 'next', label: 'the one after this' },
  { which: 'to_date', label: 'this one up to today' },
  { which: 'older', label: 'before the last' },
  { which: 'beyond', label: 'after the next' },
]
const units: Period['unit'][] = ['day', 'week', 'month', 'quarter', 'year', 'fiscal_quarter', 'fiscal_year']
const counted = computed(() => ['past', 'coming', 'older', 'beyond'].includes(period.value.which))
const full = computed(() => counted.value && period.value.unit !== 'day')

function set(change: Partial<Period>) {
  const next = { ...period.value, ...change }
  if (['past', 'coming', 'older', 'beyond'].includes(next.which)) next.n = next.n || 1
  else delete next.n
  period.value = next
}
</script>

<template>
  <div>
    <div class="flex items-center gap-2">
      <select
        class="field w-auto"
        aria-label="Which period"
        data-first
        :value="period.which"
        @change="set({ which: ($event.target as HTMLSelectElement).value as Period['which'] })"
      >
        <option v-for="p in places" :key="p.which" :value="p.which">{{ p.label }}</option>
      </select>
      <input
        v-if="counted"
        class="field w-20 text-right"
        type="number"
        min="1"
        max="10000"
        aria-label="How many"
        :value="period.n"
        @input="set({ n: Math.max(1, Number(($event.target as HTMLInputElement).value) || 1) })"
      />
      <span v-if="full">full</span>
      <select
        class="field w-auto"
        aria-label="Unit of time"
        :value="period.unit"
        @change="set({ unit: ($event.target as HTMLSelectElement).value as Period['unit'] })"
      >
        <option v-for="u in units" :key="u" :value="u">
          {{ u.replace('_', ' ') }}{{ counted && period.n !== 1 ? 's' : '' }}
        </option>
      </select>
    </div>
    <p v-if="dates" class="mt-2" data-dates>
      Today this is <b class="font-medium">{{ dates }}</b>.
      {{
        period.which === 'older'
          ? 'It reaches back without end. '
          : period.which === 'beyond'
            ? 'It reaches ahead without end; nothing past is in it. '
            : ''
      }}Blanks are not in it.
    </p>
  </div>
</template>
