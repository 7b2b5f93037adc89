<script setup lang="ts">
import { useEventListener, useFullscreen, useIntervalFn, useWakeLock } from '@vueuse/core'
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useBoard } from './board'
import PartFrame from './PartFrame.vue'

/** A board for a wall: one page at a time fills the screen, and they turn by themselves. */
const emit = defineEmits<{ close: [] }>()
/** How long a page is seen, in milliseconds. */
const turning = 20_000
const board = useBoard()
const box = useTemplateRef('box')
const { enter, exit, isFullscreen } = useFullscreen(box)
const screen = useWakeLock() // where a browser knows how, the screen stays lit
const at = ref(0)
const pages = computed(() => board.look.value?.pages ?? [])
const page = computed(() => pages.value[at.value % Math.max(1, pages.value.length)])
const parts = computed(() => {
  const all = board.history.kept.value.parts
  return (page.value?.parts ?? []).flatMap((key) => {
    const index = all.findIndex((p) => p.key === key)
    return index < 0 ? [] : [{ part: all[index]!, index }]
  })
})
const turn = (by: number) =>
  (at.value = (at.value + by + pages.value.length) % Math.max(1, pages.value.length))
const clock = useIntervalFn(() => turn(1), turning)

onMounted(() => {
  void enter().catch(() => undefined) // a browser that allows none fills its window
  box.value?.focus()
  void screen.request('screen').catch(() => undefined)
})
watch(isFullscreen, (now, before) => {
  if (before && !now) emit('close')
})
async function close() {
  await exit().catch(() => undefined)
  await screen.release().catch(() => undefined)
  emit('close')
}
useEventListener('keydown', (event: KeyboardEvent) => {
  const by = { ArrowRight: 1, PageDown: 1, ' ': 1, ArrowLeft: -1, PageUp: -1 }[event.key]
  if (event.key === 'Escape') void close()
  else if (by !== undefined) {
    turn(by)
    clock.pause() // whoever turns them reads at their own pace
  } else return
  event.preventDefault()
})
</script>

<template>
  <Teleport to="body">
    <div
      ref="box"
      class="fixed inset-0 z-40 flex flex-col bg-paper text-ink outline-none"
      role="dialog"
      aria-modal="true"
      :aria-label="`${board.title.value}, on the wall`"
      tabindex="-1"
      data-wall
    >
      <div class="flex items-baseline gap-4 px-6 pt-3 pb-2">
        <h1 class="heading text-2xl">{{ board.title.value }}</h1>
        <span v-if="pages.length > 1" class="quiet" data-wall-page>{{ at + 1 }} of {{ pages.length }}</span>
        <button class="quiet ml-auto" @click="close"><kbd class="key">Esc</kbd> leave</button>
      </div>
      <div
        class="board-page min-h-0 flex-1 !border-b-0 max-md:overflow-auto"
        :style="{ gridAutoRows: `calc((100dvh - 4.5rem) / ${page?.rows ?? 1})` }"
      >
        <PartFrame v-for="{ part, index } in parts" :key="part.key" :part="part" :index="index" fixed />
      </div>
    </div>
  </Teleport>
</template>
