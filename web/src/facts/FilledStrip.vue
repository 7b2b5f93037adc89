<script setup lang="ts">
import { wordsOf } from '../api/problem'
import { useFilling, type Filled } from './useFilling'

/** Tells what was filled in, with the way back. */
const props = defineProps<{ filled: Filled }>()
const emit = defineEmits<{ gone: [] }>()
const { undo } = useFilling()
function back() {
  undo.mutate(props.filled, {
    onSuccess: (got) => {
      if (!got.held.length) emit('gone')
    },
  })
}
</script>

<template>
  <p
    class="flex items-baseline gap-4 border-b border-rule bg-pine-wash px-5 py-1.5 text-[13px]"
    role="status"
    data-filled
  >
    <span v-if="undo.data.value?.held.length"
      >{{ undo.data.value.held[0]?.by }} has filled in something else since; that stays.</span
    ><span v-else>{{ filled.words }}</span>
    <span v-if="undo.error.value" class="text-mulberry">{{ wordsOf(undo.error.value) }}</span>
    <button
      v-if="!undo.data.value"
      class="link"
      data-undo-fill
      :disabled="undo.isPending.value"
      @click="back"
    >
      Undo
    </button>
    <button class="link ml-auto" @click="emit('gone')">Close</button>
  </p>
</template>
