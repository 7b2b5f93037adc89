<script setup lang="ts">
import { computed } from 'vue'
import type { Level } from '../api/client'
import { formatCount } from '../words'

/** How deep groups are open: the total alone, a level of groups, or the records in them. */
const props = defineProps<{
  levels: readonly Level[]
  depth: number
  /** What a record is called; left out where none has a line. */
  record?: string
}>()
const emit = defineEmits<{ show: [depth: number] }>()
const depths = computed(() => [
  { label: 'Total', groups: undefined },
  ...props.levels,
  ...(props.record ? [{ label: props.record, groups: undefined }] : []),
])
</script>

<template>
  <div class="flex min-w-0 items-center gap-4 overflow-x-auto">
    <span class="quiet shrink-0 max-md:hidden">Show down to</span>
    <button
      v-for="(d, i) in depths"
      :key="`${i} ${d.label}`"
      class="shrink-0 border-b-2 pb-0.5"
      :aria-pressed="depth === i - 1"
      :class="depth === i - 1 ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
      :data-depth="i - 1"
      @click="emit('show', i - 1)"
    >
      {{ d.label
      }}<template v-if="d.groups !== undefined"
        >&nbsp;<span class="quiet font-normal">{{ formatCount(d.groups) }}</span></template
      >
    </button>
    <slot></slot>
  </div>
</template>
