<script setup lang="ts">
import type { Schemas } from '../api/client'

/** One page, drawn from the same places as the file: what is seen is what is printed. */
defineProps<{ page: Schemas['Page'] }>()
const faces = {
  sans: 'font-sans font-normal',
  'sans-bold': 'font-sans font-semibold',
  serif: 'font-serif font-normal',
  'serif-bold': 'font-serif font-semibold',
}
/** The colours of series, as charts in files have them. */
const series = [
  '#1f5c4d',
  '#d9a441',
  '#7a2e4d',
  '#8fa8bf',
  '#3d5670',
  '#c98ba3',
  '#6fa08f',
  '#b3761a',
  '#a39b8b',
]
const inks = { shade: '#f6f3ec', bar: '#d6e4de', below: '#ecd9e0' }
</script>

<template>
  <svg
    class="block h-auto w-full border border-rule bg-white"
    style="font-kerning: none"
    :viewBox="`0 0 ${page.width} ${page.height}`"
    role="img"
    :aria-label="`Page ${page.number} of ${page.of}: ${page.texts
      .filter((t) => t.role !== 'footing')
      .slice(0, 40)
      .map((t) => t.text)
      .join(' ')}`"
    data-page
  >
    <rect
      v-for="(f, i) in page.fills"
      :key="`f${i}`"
      :x="f.x"
      :y="f.y"
      :width="f.width"
      :height="f.height"
      :fill="inks[f.ink]"
    />
    <line
      v-for="(r, i) in page.rules"
      :key="`r${i}`"
      :x1="r.x1"
      :y1="r.y1"
      :x2="r.x2"
      :y2="r.y2"
      :stroke="r.faint ? '#cdc6b8' : '#1e1b17'"
      :stroke-width="r.width"
    />
    <template v-for="(s, i) in page.shapes" :key="`s${i}`">
      <polyline
        v-if="s.line"
        :points="s.points.join(' ')"
        fill="none"
        :stroke="series[s.series % series.length]"
        stroke-width="1.4"
      />
      <polygon v-else :points="s.points.join(' ')" :fill="series[s.series % series.length]" />
    </template>
    <image
      v-for="(p, i) in page.pictures"
      :key="`p${i}`"
      :href="p.address"
      :x="p.x"
      :y="p.y"
      :width="p.width"
      :height="p.height"
      preserveAspectRatio="xMinYMid"
    />
    <text
      v-for="(t, i) in page.texts"
      :key="i"
      :x="t.x"
      :y="t.y"
      :font-size="t.size"
      :class="faces[t.face]"
      :fill="t.quiet ? '#645e54' : '#1e1b17'"
    >
      {{ t.text }}
    </text>
  </svg>
</template>
