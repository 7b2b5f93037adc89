<script setup lang="ts">
import type { Level } from '../api/client'
import { formatCount } from '../words'

/** How deep the groups are open, and whether they are drawn. */
defineProps<{ levels: readonly Level[]; depth: number; one: string; crossed: boolean; charted: boolean }>()
const emit = defineEmits<{ depth: [depth: number]; chart: [] }>()
</script>

<template>
  <nav
    class="flex items-center gap-4 border-b border-rule bg-sheet px-5 py-1.5 text-[13px] whitespace-nowrap"
    aria-label="Show down to"
  >
    <div v-if="levels.length" class="flex min-w-0 items-center gap-4 overflow-x-auto">
      <span class="quiet shrink-0">Show down to</span>
      <button
        v-for="(l, i) in ['Total', ...levels.map((x) => x.label), ...(crossed ? [] : [one])]"
        :key="`${i} ${l}`"
        class="shrink-0 border-b-2 pb-0.5"
        :aria-pressed="depth === i - 1"
        :class="depth === i - 1 ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
        @click="emit('depth', i - 1)"
      >
        {{ l
        }}<template v-if="i && i <= levels.length"
          >&nbsp;<span class="quiet font-normal">{{
            formatCount(levels[i - 1]?.groups ?? 0)
          }}</span></template
        >
      </button>
      <span class="quiet shrink-0"><kbd class="key">[</kbd> <kbd class="key">]</kbd></span>
    </div>
    <button
      class="ml-auto shrink-0 border-b-2 pb-0.5"
      :aria-pressed="charted"
      :class="charted ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
      data-chart-toggle
      @click="emit('chart')"
    >
      Chart <kbd class="key">h</kbd>
    </button>
  </nav>
</template>
