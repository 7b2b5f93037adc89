<script setup lang="ts">
import { computed } from 'vue'
import type { Line } from '../../api/client'
import type { Place } from './useColumns'

/** What stands in a cell beside its text: a bar behind it, a mark of mixed prices, a picture in its place. */
const props = defineProps<{ line: Line; place: Place; text: string }>()
const picture = computed(() => props.place.column?.type === 'picture' && props.text.startsWith('data:image/'))
const bar = computed(() => props.line.bars?.find((b) => b.cell === props.place.head))
const mix = computed(() => props.line.mixes?.find((m) => m.cell === props.place.head))
</script>

<template>
  <img v-if="picture" :src="text" alt="" class="my-0.5 h-6" />
  <template v-else>
    <span
      v-if="bar"
      class="absolute inset-y-[5px] right-2 bg-bar opacity-60"
      :style="{ width: `calc((100% - 16px) * ${Math.abs(bar.part)})` }"
      data-bar
    ></span>
    <span class="relative"
      ><span
        v-if="mix"
        class="mr-1.5 text-xs font-normal text-honey"
        data-mix
        :title="`An average of prices from ${mix.low} to ${mix.high}`"
        >mix</span
      >{{ text }}</span
    >
  </template>
</template>
