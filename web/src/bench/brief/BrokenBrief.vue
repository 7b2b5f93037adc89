<script setup lang="ts">
import { computed } from 'vue'
import type { Document, Field } from '../../api/client'
import type { Problem } from '../../api/problem'
import { lies, partsOf } from './parts'

/** The sentence of a view that does not run: what is broken is marked, and can be left out in place. */
const props = defineProps<{
  label: string
  document: Document
  fields: ReadonlyMap<string, Field>
  problem: Problem
}>()
const emit = defineEmits<{ mend: [document: Document] }>()
const parts = computed(() =>
  partsOf(props.document, (path) => props.fields.get(path)?.label.toLowerCase() ?? path).map((part) => ({
    ...part,
    fault: props.problem.faults.find((f) => lies(f.path, part))?.message,
  })),
)
</script>

<template>
  <p class="font-serif text-xl leading-8" data-broken-brief>
    <b>{{ label }}</b>
    <template v-for="part in parts" :key="part.path">
      <template v-if="part.lead !== ','">{{ ` ${part.lead} ` }}</template>
      <template v-else>, </template>
      <span v-if="part.fault" class="bg-mulberry-wash px-1 text-mulberry" :title="part.fault" data-broken>
        {{ part.words }}
        <button class="link ml-1 font-sans text-sm" @click="emit('mend', part.without)">leave it out</button>
      </span>
      <template v-else>{{ part.words }}</template>
    </template>
  </p>
</template>
