<script setup lang="ts">
import { computed } from 'vue'
import { sizeOf } from './recipe'

/** How far something is that takes a while, with a way to stop it. */
const props = defineProps<{ done: number; of: number; words: string; waiting?: boolean }>()
const emit = defineEmits<{ stop: [] }>()
const share = computed(() => Math.min(100, Math.floor((100 * props.done) / Math.max(props.of, 1))))
</script>

<template>
  <div class="mb-4 flex items-center gap-4" role="status" data-progress>
    <span class="tabular-nums">{{ share }} %</span>
    <span
      class="h-2 w-64 bg-bar"
      role="progressbar"
      aria-label="How far it is"
      :aria-valuenow="share"
      aria-valuemin="0"
      aria-valuemax="100"
      ><span class="block h-full bg-pine" :style="{ width: `${share}%` }"></span
    ></span>
    <span class="quiet">{{ sizeOf(of) }} {{ words }}</span>
    <button class="link" :disabled="waiting" data-stop @click="emit('stop')">Stop</button>
  </div>
</template>
