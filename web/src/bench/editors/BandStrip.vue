<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { formatCount } from '../../words'

/** The bands side by side, with what lies in each; gaps and overlaps stand out between them. */
const props = defineProps<{ preview: Schemas['BucketOutputBody'] }>()
const most = computed(() => Math.max(1, ...props.preview.bands.map((b) => b.all)))
const seamAfter = (i: number) => props.preview.seams.find((s) => s.lower === i)
</script>

<template>
  <figure class="mb-3">
    <div
      class="flex h-14 items-end gap-0.5 border-b border-edge"
      role="img"
      :aria-label="`${preview.bands.length} bands`"
    >
      <template v-for="(b, i) in preview.bands" :key="i">
        <span
          class="relative h-full min-w-0 flex-1 bg-paper"
          :title="`${b.label}: ${formatCount(b.kept)} of ${formatCount(b.all)}`"
        >
          <span
            class="absolute inset-x-0 bottom-0 bg-bar"
            :style="{ height: `${(100 * b.all) / most}%` }"
          ></span>
          <span
            class="absolute inset-x-0 bottom-0 bg-pine"
            :style="{ height: `${(100 * b.kept) / most}%` }"
          ></span>
        </span>
        <span
          v-if="seamAfter(i)"
          class="h-full w-2 bg-mulberry"
          :class="seamAfter(i)!.gap ? 'opacity-35' : ''"
          :title="seamAfter(i)!.words"
        ></span>
      </template>
    </div>
    <div class="flex gap-0.5 text-xs text-mute">
      <span v-for="(b, i) in preview.bands" :key="i" class="min-w-0 flex-1 truncate text-center">{{
        b.label
      }}</span>
    </div>
    <p v-for="(s, i) in preview.seams" :key="i" class="mt-1 text-mulberry" data-seam>
      <template v-if="s.gap">Nothing holds {{ s.words }}: it goes to everything else.</template>
      <template v-else
        >{{ s.words }} lies in two bands: “{{ preview.bands[Math.min(s.lower, s.upper)]?.label }}”, the first
        in the list, has it.</template
      >
    </p>
  </figure>
</template>
