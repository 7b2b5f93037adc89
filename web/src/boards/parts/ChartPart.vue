<script setup lang="ts">
import { useRouter } from 'vue-router'
import type { ChartSpec, Drawing } from '../../api/client'
import type { Answers } from '../../bench/ask/answers'
import Plot from '../../bench/chart/Plot.vue'
import { viewWith } from '../answers'

/** The chart of a view; each mark leads to what it stands for there, unless it is fixed. */
const props = defineProps<{
  drawing: Drawing
  spec: ChartSpec
  view: string
  answers: Answers
  fixed?: boolean
}>()
const router = useRouter()
function follow(series: number, place: number) {
  if (props.fixed) return
  const group = props.drawing.series[series]?.marks[place]?.group
  void router.push(viewWith(props.view, props.answers, group))
}
</script>

<template>
  <p v-if="drawing.trouble" class="px-3 py-2" role="status">{{ drawing.trouble }}</p>
  <div v-else class="flex size-full flex-col">
    <Plot class="min-h-0 flex-1" :drawing="drawing" :spec="spec" @mark="follow" />
    <p v-if="drawing.notes.length" class="quiet truncate px-3 pb-1 text-xs" :title="drawing.notes.join(' ')">
      {{ drawing.notes.join(' ') }}
    </p>
  </div>
</template>
