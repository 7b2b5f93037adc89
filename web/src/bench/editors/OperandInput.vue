<script setup lang="ts">
import { computed } from 'vue'

const value = defineModel<string>()
const props = defineProps<{ type: string; label: string }>()
const kind = computed(() => (props.type === 'date' || props.type === 'datetime' ? 'date' : 'text'))
const hints: Record<string, string> = {
  duration: '1:30 or 90 min',
  money: '25.00',
  percent: '12.5',
  whole: '0',
  decimal: '0.0',
}
</script>

<template>
  <div v-if="type === 'yesno'" class="flex gap-5" role="radiogroup" :aria-label="label">
    <label v-for="v in ['yes', 'no']" :key="v" class="flex items-center gap-1.5"
      ><input v-model="value" type="radio" :value="v" class="accent-mulberry" /> {{ v }}</label
    >
  </div>
  <input
    v-else
    v-model="value"
    data-first
    class="field"
    :type="kind"
    :placeholder="hints[type] ?? ''"
    :aria-label="label"
    autocomplete="off"
  />
</template>
