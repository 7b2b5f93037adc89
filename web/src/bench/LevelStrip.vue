<script setup lang="ts">
import type { Level } from '../api/client'

/** How deep the groups are open, and whether they are drawn. */
defineProps<{ levels: readonly Level[]; depth: number; one: string; crossed: boolean; charted: boolean }>()
const emit = defineEmits<{ depth: [depth: number]; chart: [] }>()
</script>

<template>
  <nav class="flex items-center gap-4 border-b border-rule bg-sheet px-5 py-1.5 text-[13px]" aria-label="Show down to">
    <template v-if="levels.length">
      <span class="quiet">Show down to</span>
      <button
        v-for="(l, i) in ['Total', ...levels.map((x) => x.label), ...(crossed ? [] : [one])]" :key="`${i} ${l}`"
        class="border-b-2 pb-0.5 whitespace-nowrap" :aria-pressed="depth === i - 1" :class="depth === i - 1 ? 'border-pine font-medium text-pine' : 'quiet border-transparent'" @click="emit('depth', i - 1)"
      >{{ l }}<template v-if="i && i <= levels.length">&nbsp;<span class="quiet font-normal">{{ levels[i - 1]?.groups.toLocaleString('en') }}</span></template></button>
      <span class="quiet"><kbd class="key">[</kbd> <kbd class="key">]</kbd></span>
    </template>
    <button class="ml-auto border-b-2 pb-0.5" :aria-pressed="charted" :class="charted ? 'border-pine font-medium text-pine' : 'quiet border-transparent'" data-chart-toggle @click="emit('chart')">Chart <kbd class="key">h</kbd></button>
  </nav>
</template>
