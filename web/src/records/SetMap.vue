<script setup lang="ts">
import { computed, ref } from 'vue'
import type { RecordSet } from '../api/client'
import { formatSize } from '../words'
import { layOut } from './mapLayout'

/** All record sets and how they link, drawn; each leads to its fields. */
const props = defineProps<{ sets: readonly RecordSet[] }>()
const drawn = computed(() => layOut(props.sets))
/** The one under the pointer or the focus: its links stand out. */
const near = ref('')
const touches = (l: { from: string; to: string }) => l.from === near.value || l.to === near.value
</script>

<template>
  <figure class="overflow-x-auto" data-set-map>
    <svg
      :viewBox="`0 0 ${drawn.width} ${drawn.height}`"
      :style="{ width: `min(100%, ${drawn.width * 1.15}px)`, minWidth: `${drawn.width * 0.7}px` }"
      role="group"
      aria-label="Record sets and their links"
    >
      <defs>
        <marker
          id="set-map-tip"
          viewBox="0 0 8 8"
          refX="8"
          refY="4"
          markerWidth="7"
          markerHeight="7"
          orient="auto"
        >
          <path d="M0,0 L8,4 L0,8" fill="none" stroke="var(--color-edge)" />
        </marker>
      </defs>
      <g
        v-for="l in drawn.lines"
        :key="`${l.from} ${l.to}`"
        :opacity="near && !touches(l) ? 0.25 : 1"
        class="transition-opacity"
      >
        <path
          :d="l.path"
          fill="none"
          :stroke="touches(l) ? 'var(--color-mulberry)' : 'var(--color-edge)'"
          :stroke-width="touches(l) ? 1.6 : 1"
          marker-end="url(#set-map-tip)"
        />
        <text
          :x="l.middle.x"
          :y="l.middle.y - 3"
          text-anchor="middle"
          font-size="11"
          fill="var(--color-mute)"
          stroke="var(--color-paper)"
          stroke-width="4"
          paint-order="stroke"
        >
          {{ l.label }}
        </text>
      </g>
      <RouterLink
        v-for="s in drawn.spots"
        :key="s.set.key"
        :to="{ query: { set: s.set.key } }"
        :data-spot="s.set.key"
        @mouseenter="near = s.set.key"
        @mouseleave="near = ''"
        @focus="near = s.set.key"
        @blur="near = ''"
      >
        <rect
          :x="s.x - s.width / 2"
          :y="s.y - s.height / 2"
          :width="s.width"
          :height="s.height"
          rx="2"
          fill="var(--color-sheet)"
          :stroke="near === s.set.key ? 'var(--color-mulberry)' : 'var(--color-edge)'"
        />
        <text
          :x="s.x - s.width / 2 + 12"
          :y="s.y - 3"
          font-size="14"
          font-weight="600"
          class="font-serif"
          fill="var(--color-ink)"
        >
          {{ s.set.label }}
        </text>
        <text :x="s.x - s.width / 2 + 12" :y="s.y + 14" font-size="12" fill="var(--color-mute)">
          {{ formatSize(s.set) }}
        </text>
      </RouterLink>
    </svg>
    <figcaption class="quiet mt-2">
      A line leads from each record to the one it links to: many to one. Choose a record set to see its
      fields.
    </figcaption>
  </figure>
</template>
