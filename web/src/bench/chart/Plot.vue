<script setup lang="ts">
import { useElementSize, usePreferredDark } from '@vueuse/core'
import type { EChartsType } from 'echarts/core'
import { onBeforeUnmount, onMounted, shallowRef, useTemplateRef, watch } from 'vue'
import type { ChartSpec, Drawing } from '../../api/client'
import { optionOf } from './option'

/** Draws a chart; a click on a mark tells which. */
const props = defineProps<{ drawing: Drawing; spec: ChartSpec }>()
const emit = defineEmits<{ mark: [series: number, place: number] }>()
const box = useTemplateRef('box')
const { width, height } = useElementSize(box)
const dark = usePreferredDark()
const chart = shallowRef<EChartsType>()

onMounted(async () => {
  const { init } = await import('./echarts')
  if (!box.value) return
  chart.value = init(box.value, null, { renderer: 'svg' })
  chart.value.on('click', (p) => {
    if (typeof p.seriesIndex === 'number' && typeof p.dataIndex === 'number')
      emit('mark', p.seriesIndex, p.dataIndex)
  })
})
onBeforeUnmount(() => chart.value?.dispose())

watch([chart, () => props.drawing, () => props.spec, dark, width, height], () => {
  if (!chart.value || !box.value || !width.value) return
  const style = getComputedStyle(box.value)
  const ink = (name: string) => style.getPropertyValue(`--color-${name}`).trim()
  chart.value.resize()
  chart.value.setOption(
    optionOf(
      props.drawing,
      props.spec,
      {
        ink: ink('ink'),
        mute: ink('mute'),
        rule: ink('rule'),
        sheet: ink('sheet'),
        font: style.fontFamily,
        dark: dark.value,
      },
      width.value,
    ),
    true,
  )
  box.value.setAttribute('data-drawn', props.drawing.kind)
})
</script>

<template>
  <div
    ref="box"
    class="size-full"
    role="img"
    :aria-label="`Chart: ${drawing.total} by ${drawing.axis}${drawing.by ? ` and ${drawing.by}` : ''}. The ledger has the same figures.`"
    data-plot
  ></div>
</template>
