<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Document, Field } from '../../api/client'
import type { Problem } from '../../api/problem'
import { mapped, unknowns } from '../../library/bringing'
import Popover from '../../shell/Popover.vue'
import FieldFinder from '../editors/FieldFinder.vue'
import { lies, partsOf } from './parts'

/**
 * The sentence of a view that does not run: what is broken is marked. A field that is not there any
 * more is told by its new name, wherever the view uses it; anything can be left out in place.
 */
const props = defineProps<{
  label: string
  document: Document
  fields: ReadonlyMap<string, Field>
  problem: Problem
}>()
const emit = defineEmits<{ mend: [document: Document] }>()
const parts = computed(() =>
  partsOf(props.document, (path) => props.fields.get(path)?.label.toLowerCase() ?? path).map((part) => {
    const faults = props.problem.faults.filter((f) => lies(f.path, part))
    const lost = unknowns(props.document, faults).find((u) => u.kind === 'field')?.was
    return { ...part, fault: faults[0]?.message, lost }
  }),
)
const asked = ref<{ lost: string; anchor: HTMLElement } | null>(null)
function tell(field: Field) {
  if (!asked.value) return
  const { lost } = asked.value
  asked.value = null
  emit('mend', mapped(props.document, new Map([[lost, field.path]])))
}
</script>

<template>
  <p class="font-serif text-xl leading-8" data-broken-brief>
    <b>{{ label }}</b>
    <template v-for="part in parts" :key="part.path">
      <template v-if="part.lead !== ','">{{ ` ${part.lead} ` }}</template>
      <template v-else>, </template>
      <span v-if="part.fault" class="bg-mulberry-wash px-1 text-mulberry" :title="part.fault" data-broken>
        {{ part.words }}
        <button
          v-if="part.lost"
          class="link ml-1 font-sans text-sm"
          :data-lost="part.lost"
          @click="asked = { lost: part.lost, anchor: $event.currentTarget as HTMLElement }"
        >
          find it</button
        >{{ ' ' }}
        <button class="link ml-1 font-sans text-sm" data-leave-out @click="emit('mend', part.without)">
          leave it out
        </button>
      </span>
      <template v-else>{{ part.words }}</template>
    </template>
  </p>
  <Popover
    v-if="asked"
    :anchor="asked.anchor"
    label="Find the field that is meant"
    tone="mulberry"
    :width="560"
    @keep="asked = null"
    @revert="asked = null"
  >
    <h2 class="heading mb-2 text-base">What is “{{ asked.lost }}” called now?</h2>
    <FieldFinder :fields="[...fields.values()]" @choose="tell" />
  </Popover>
</template>
