<script setup lang="ts">
import { computed } from 'vue'
import { Problem, wordsOf } from '../api/problem'
import type { Describing } from './useDescribing'

/** Why something was not said; what only breaks views can be said all the same. */
const props = defineProps<{ describing: Describing }>()
const emit = defineEmits<{ done: [] }>()
const { saying, marking, sayAnyway } = props.describing
const error = computed(() => saying.error.value ?? marking.error.value)
const breaks = computed(
  () => error.value instanceof Problem && error.value.faults.some((f) => f.path === 'anyway'),
)
async function anyway() {
  await sayAnyway()
    .then(() => emit('done'))
    .catch(() => undefined) // it is shown here
}
</script>

<template>
  <p v-if="error" class="col-span-full text-mulberry" role="alert">
    {{ wordsOf(error) }}
    <button v-if="breaks" type="button" class="link ml-2" data-anyway @click="anyway">
      Say it all the same
    </button>
  </p>
</template>
