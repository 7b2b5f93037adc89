<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { BoardPart } from '../api/client'
import { useReorder } from '../shell/useReorder'
import { useBoard } from './board'
import { movePart, resizePart } from './document'
import PartFrame from './PartFrame.vue'
import { useStretch } from './useStretch'

/** The sheet with its ruled parts, page by page. A part is moved by its grip and stretched at its corner. */
const emit = defineEmits<{ add: [] }>()
const board = useBoard()
const { history, reading, look } = board
const parts = computed(() => history.shown.value.parts)
const sheet = useTemplateRef('sheet')

interface Placed {
  part: BoardPart
  index: number
}
/** Runs of parts that are seen together. */
const pages = computed(() => {
  const out: Placed[][] = []
  parts.value.forEach((part, index) => {
    if (!index || part.page) out.push([])
    out.at(-1)!.push({ part, index })
  })
  return out
})
const reorder = useReorder(
  sheet,
  () => parts.value.length,
  (from, to) => history.tryOut(movePart(history.shown.value, from, to)),
  () => history.step(history.shown.value),
)
const stretch = useStretch(
  (key, wide, high) => history.tryOut(resizePart(history.shown.value, key, wide, high)),
  () => history.step(history.shown.value),
)
</script>

<template>
  <div
    ref="sheet"
    class="board-desk min-h-0 flex-1 overflow-auto p-5 max-md:p-3 print:overflow-visible print:p-0"
    role="region"
    aria-label="The board"
    tabindex="0"
    data-sheet
  >
    <template v-for="(page, i) in pages" :key="i">
      <p v-if="pages.length > 1" class="quiet mb-1 text-xs" :class="i > 0 && 'mt-4'">Page {{ i + 1 }}</p>
      <div class="board-page">
        <PartFrame
          v-for="{ part, index } in page"
          :key="part.key"
          :part="part"
          :index="index"
          :reorder="reorder"
          :stretch="stretch"
          :fixed="reading"
          :data-place="index"
        />
      </div>
    </template>
    <div v-if="!parts.length && look" class="mx-auto max-w-xl py-16 text-center">
      <p class="heading mb-2 text-xl">An empty sheet</p>
      <p class="quiet mb-4">
        Put parts of saved views on it: a figure, a chart, the lines of their groups; or words of your own.
        Everything on it leads back to its view.
      </p>
      <button v-if="!reading" class="button button-act" @click="emit('add')">Put the first part on it</button>
    </div>
  </div>
</template>
