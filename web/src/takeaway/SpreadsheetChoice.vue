<script setup lang="ts">
import type { Choices } from './choices'

/** What the lines of a spreadsheet are, and how far its groups are open. */
const choice = defineModel<Choices['spreadsheet']>({ required: true })
defineProps<{
  /** What the levels of groups are called, the outermost first. */
  levels: readonly string[]
  /** Records can be taken, too; a crosstab has none. */
  records: boolean
  /** Several views are taken. */
  several: boolean
}>()
</script>

<template>
  <fieldset class="grid gap-1">
    <legend class="mb-1 font-medium">Lines</legend>
    <label class="flex items-baseline gap-1.5"
      ><input v-model="choice.rows" type="radio" name="rows" value="ledger" class="accent-mulberry" />
      <span
        >as laid out<span class="quiet block text-xs"
          >groups to fold, totals that follow their records</span
        ></span
      >
    </label>
    <label v-if="choice.rows === 'ledger' && several" class="mb-1 ml-5 flex items-baseline gap-2"
      ><span class="quiet whitespace-nowrap">down to</span
      ><select v-model="choice.depth" class="field py-0.5" aria-label="Down to">
        <option :value="-1">groups and totals</option>
        <option :value="10">records</option>
      </select></label
    >
    <label v-else-if="choice.rows === 'ledger' && levels.length" class="mb-1 ml-5 flex items-baseline gap-2"
      ><span class="quiet whitespace-nowrap">down to</span
      ><select v-model="choice.depth" class="field py-0.5" aria-label="Down to" data-down-to>
        <option v-for="(name, i) in levels" :key="i" :value="i">{{ name.toLowerCase() }}</option>
        <option v-if="records" :value="levels.length">records</option>
      </select></label
    >
    <label v-if="records" class="flex items-baseline gap-1.5"
      ><input v-model="choice.rows" type="radio" name="rows" value="records" class="accent-mulberry" />
      <span
        >plain data<span class="quiet block text-xs"
          >one line for each record, groups as columns, filters</span
        ></span
      >
    </label>
    <label class="flex items-baseline gap-1.5"
      ><input v-model="choice.rows" type="radio" name="rows" value="totals" class="accent-mulberry" />
      <span>totals alone<span class="quiet block text-xs">one line for each group, as values</span></span>
    </label>
  </fieldset>
</template>
