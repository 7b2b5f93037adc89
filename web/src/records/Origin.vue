<script setup lang="ts">
import type { Saying } from '../api/client'
import { formatRecent } from '../words'

/** Where a word about the records came from, and the way back to what the database says. */
defineProps<{
  /** Who said it; undefined for what the database says. */
  by: Saying | undefined
  /** It differs from what is kept, or is said now for the first time. */
  changed: boolean
  /** What the database says, in words. */
  loaded: string
}>()
const emit = defineEmits<{ back: [] }>()
</script>

<template>
  <span class="quiet block text-xs" data-origin>
    <template v-if="changed || by">
      <template v-if="by && !changed">said by {{ by.who }}, {{ formatRecent(new Date(by.at)) }} · </template
      >the database says {{ loaded ? `“${loaded}”` : 'nothing' }} ·
      <button type="button" class="link" @click="emit('back')">set back</button>
    </template>
    <template v-else>from the database</template>
  </span>
</template>
