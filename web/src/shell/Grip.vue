<script setup lang="ts">
import type { Reorder } from './useReorder'

/** The handle by which a line of a list is moved. */
defineProps<{ reorder: Reorder; index: number; name: string }>()
</script>

<template>
  <button
    type="button"
    class="quiet min-h-6 min-w-6 cursor-grab touch-none px-1 select-none"
    :aria-label="`${name}: move with the arrow keys`"
    title="Drag, or use the arrow keys"
    v-bind="reorder.grip(index)"
  >
    ⋮⋮
  </button>
</template>
