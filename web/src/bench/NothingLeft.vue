<script setup lang="ts">
import { computed } from 'vue'
import type { Phrase } from '../api/client'
import { formatCount } from '../words'

/** Says which condition took the last records away, and offers to leave it out. */
const props = defineProps<{ phrases: readonly Phrase[]; many: string }>()
const emit = defineEmits<{ leaveOut: [path: string] }>()
/** The first condition that leaves nothing, and what was left before it. */
const last = computed(() => {
  let before = 0
  for (const p of props.phrases) {
    if (p.count === undefined) continue
    if (p.kind === 'filter' && p.count === 0) return { phrase: p, before }
    before = p.count
  }
  return null
})
</script>

<template>
  <p class="border-b border-rule bg-sheet px-5 py-3" data-nothing-left>
    No {{ many }} are left.
    <template v-if="last"
      >“{{ last.phrase.text }}” took the last {{ formatCount(last.before) }} away.
      <button class="link ml-1" @click="emit('leaveOut', last.phrase.path)">Leave it out</button></template
    >
  </p>
</template>
