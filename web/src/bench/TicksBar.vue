<script setup lang="ts">
import { formatCount } from '../words'

/** What can be done with the records that are ticked. */
defineProps<{ count: number; one: string; many: string }>()
const emit = defineEmits<{ keep: []; leaveOut: []; clear: [] }>()
</script>

<template>
  <div
    class="flex flex-wrap items-baseline gap-5 border-b border-rule bg-mulberry-wash px-5 py-1.5 text-[13px]"
    role="status"
    data-ticked
  >
    <b class="font-medium">{{ formatCount(count) }} {{ count === 1 ? one : many }} ticked</b>
    <button class="link" data-keep-ticked @click="emit('keep')">keep only these</button>
    <button class="link" @click="emit('leaveOut')">leave these out</button>
    <button class="link" @click="emit('clear')">untick all</button>
    <slot></slot>
  </div>
</template>
