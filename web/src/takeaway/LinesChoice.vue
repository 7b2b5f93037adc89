<script setup lang="ts">
import type { Rows } from './choices'

/** What the lines of a file are; below the ledger's choice stands what its slot says. */
const rows = defineModel<Rows>({ required: true })
defineProps<{ choices: readonly { rows: Rows; name: string; about?: string }[] }>()
</script>

<template>
  <fieldset class="grid gap-1">
    <legend class="mb-1 font-medium">Lines</legend>
    <template v-for="c in choices" :key="c.rows">
      <label class="flex items-baseline gap-1.5"
        ><input v-model="rows" type="radio" name="rows" :value="c.rows" class="accent-mulberry" />
        <span
          >{{ c.name }}<span v-if="c.about" class="quiet block text-xs">{{ c.about }}</span></span
        ></label
      >
      <slot v-if="c.rows === 'ledger'"></slot>
    </template>
  </fieldset>
</template>
