<script setup lang="ts">
import { computed, watchEffect } from 'vue'
import { fileFormats, flatLines, type Choices } from './choices'
import LinesChoice from './LinesChoice.vue'

/** Which data file, what its lines are and, of separated values, how they are written. */
const choice = defineModel<Choices['file']>({ required: true })
const props = defineProps<{ records: boolean }>()
// Only a page can be laid out; a crosstab has no records.
watchEffect(() => {
  if (choice.value.format !== 'html' && choice.value.rows === 'ledger') choice.value.rows = 'records'
  if (!props.records && choice.value.rows === 'records') choice.value.rows = 'totals'
})
const choices = computed(() => [
  ...(choice.value.format === 'html' ? [{ rows: 'ledger' as const, name: 'as laid out' }] : []),
  ...flatLines(props.records),
])
</script>

<template>
  <label class="block"
    ><span class="mb-1 block font-medium">Format</span
    ><select v-model="choice.format" class="field" data-format>
      <option v-for="f in fileFormats" :key="f.key" :value="f.key">{{ f.name }}</option></select
    ><span class="quiet text-xs">{{ fileFormats.find((f) => f.key === choice.format)?.about }}</span></label
  >
  <LinesChoice v-model="choice.rows" :choices="choices" />
  <div v-if="choice.format === 'csv'" class="grid grid-cols-2 gap-3">
    <label
      ><span class="mb-1 block font-medium">Between values</span
      ><select v-model="choice.separator" class="field py-1">
        <option value="comma">comma</option>
        <option value="semicolon">semicolon</option>
        <option value="tab">tab</option>
      </select></label
    >
    <label
      ><span class="mb-1 block font-medium">Characters</span
      ><select v-model="choice.encoding" class="field py-1">
        <option value="utf-8-marked">UTF-8, marked</option>
        <option value="utf-8">UTF-8</option>
        <option value="windows-1252">Western</option>
      </select></label
    >
    <label class="col-span-2 flex items-baseline gap-1.5"
      ><input v-model="choice.guard" type="checkbox" class="accent-mulberry" />
      <span
        >guard texts<span class="quiet block text-xs"
          >an apostrophe before texts that a spreadsheet would run as a formula</span
        ></span
      ></label
    >
  </div>
  <label v-if="choice.format !== 'html'" class="flex items-baseline gap-1.5"
    ><input v-model="choice.keys" type="checkbox" class="accent-mulberry" />name columns for programs, by
    their keys</label
  >
</template>
