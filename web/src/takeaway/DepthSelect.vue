<script setup lang="ts">
/** How far groups are open: down to a level, or to the records. */
const depth = defineModel<number | undefined>({ required: true })
defineProps<{
  /** What the levels of groups are called, the outermost first; none: several views are taken. */
  levels: readonly string[]
  /** Records can be shown, too; a crosstab has none. */
  records: boolean
}>()
/** More levels than any view has: all are open. */
const all = 10
</script>

<template>
  <select v-model="depth" class="field py-0.5" aria-label="Down to" data-down-to>
    <template v-if="levels.length">
      <option v-for="(name, i) in levels" :key="i" :value="i">{{ name.toLowerCase() }}</option>
      <option v-if="records" :value="levels.length">records</option>
    </template>
    <template v-else>
      <option :value="-1">groups and totals</option>
      <option :value="all">records</option>
    </template>
  </select>
</template>
