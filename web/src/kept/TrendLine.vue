<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import { placed, type Point } from './trend'

/** A total through kept results, as a line; each point leads to its result. */
const props = defineProps<{ points: readonly Point[]; label: string }>()
const box = useTemplateRef('box')
const { width } = useElementSize(box)
const height = 150
const marks = computed(() => placed(props.points, width.value || 600, height, 28))
const line = computed(() => marks.value.map((m) => `${m.x},${m.y}`).join(' '))
</script>

<template>
  <div ref="box">
    <svg
      class="w-full border-b border-edge"
      :height="height"
      role="img"
      :aria-label="`${label} over time`"
      data-trend
    >
      <polyline :points="line" fill="none" class="stroke-pine" stroke-width="2" />
      <g v-for="m in marks" :key="m.key">
        <text
          v-if="marks.length <= 14"
          :x="m.x"
          :y="m.y - 9"
          text-anchor="middle"
          class="fill-mute text-[11px]"
          aria-hidden="true"
        >
          {{ m.text }}
        </text>
        <circle :cx="m.x" :cy="m.y" r="4" class="fill-pine">
          <title>{{ m.text }}</title>
        </circle>
      </g>
    </svg>
  </div>
</template>
