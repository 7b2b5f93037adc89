<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useTimeoutFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { BoardPart } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import Grip from '../shell/Grip.vue'
import type { Reorder } from '../shell/useReorder'
import { viewWith } from './answers'
import { useBoard } from './board'
import { askedOf, sizeOf } from './document'
import ChartPart from './parts/ChartPart.vue'
import FigurePart from './parts/FigurePart.vue'
import LinesPart from './parts/LinesPart.vue'
import TextPart from './parts/TextPart.vue'
import type { Stretch } from './useStretch'

/** A ruled part of the sheet: what it shows of its view, how fresh that is, and the way to the view. */
const props = defineProps<{
  part: BoardPart
  index: number
  reorder?: Reorder
  stretch?: Stretch
  /** It is read, and not arranged. */
  fixed: boolean
}>()
/** How often the figures are asked for anew, in milliseconds: they are kept for as long as the records are. */
const again = 60_000

const board = useBoard()
const answers = computed(() => board.answersTo(props.part))
const asked = computed(() => askedOf(props.part))
const got = useQuery(
  computed(() => ({
    ...queries.boardPart(asked.value, board.saved.value?.key, answers.value),
    enabled: board.ready.value,
    refetchInterval: again,
  })),
)
const said = computed(() => got.data.value)
/** It says something else than a moment ago, of newer records: that is marked for a while. */
const newer = ref(false)
const { start: fade } = useTimeoutFn(() => (newer.value = false), 4_000, { immediate: false })
const shown = computed(() => ({
  of: JSON.stringify([asked.value, answers.value]),
  says: said.value && JSON.stringify({ ...said.value, asOf: '', asOfText: '' }),
}))
watch(shown, (now, before) => {
  if (got.isPlaceholderData.value || now.of !== before.of || !before.says || now.says === before.says) return
  newer.value = true
  fade()
})
const isText = computed(() => props.part.show === 'text')
const heading = computed(() => props.part.heading || said.value?.name || '')
/** What a reader of the figures has to know. */
const problems = computed(() => said.value?.problems.map((p) => p.text).join('; ') ?? '')
const size = computed(() => sizeOf(props.part))
/** The way to the view; none, if its reader sees it on this board alone. */
const open = computed(() => board.views.value.get(props.part.view ?? '')?.alone !== false)
const to = computed(() => viewWith(props.part.view ?? '', answers.value))
const name = computed(
  () => heading.value || (isText.value ? `Words, part ${props.index + 1}` : `Part ${props.index + 1}`),
)
function edit(event: MouseEvent) {
  board.editing.value = { key: props.part.key, anchor: event.currentTarget as HTMLElement, fresh: false }
}
</script>

<template>
  <section
    class="board-part group"
    :class="reorder && reorder.dragged.value === index && 'bg-mulberry-wash'"
    :style="{ '--wide': size.wide, '--high': size.high }"
    :aria-label="name"
    :aria-busy="got.isFetching.value"
    :data-part="part.key"
    :data-show="part.show"
  >
    <header v-if="!isText" class="flex items-baseline gap-2 px-3 pt-2">
      <h2 class="min-w-0 flex-1 truncate font-serif font-semibold" :title="said?.sentence">
        <RouterLink v-if="said?.name && open" class="hover:underline" :to="to" data-to-view>{{
          heading
        }}</RouterLink><template v-else>{{ heading || ' ' }}</template>
      </h2>
      <span
        v-if="said?.asOfText"
        class="quiet shrink-0 text-xs group-focus-within:hidden group-hover:hidden print:inline"
        title="The moment of the records"
        data-as-of
        >{{ said.asOfText }}</span
      >
      <button
        v-if="said?.asOfText"
        class="quiet hidden text-xs group-focus-within:inline group-hover:inline print:hidden"
        :aria-label="`Read again: ${name}`"
        title="Read again"
        @click="got.refetch()"
      >
        ↻ {{ said.asOfText }}
      </button>
    </header>
    <div
      class="min-h-0 flex-1 overflow-hidden"
      :class="newer && 'part-newer'"
      :data-newer="newer || undefined"
    >
      <p v-if="got.error.value" class="px-3 py-2" role="alert">
        {{ wordsOf(got.error.value) }}
        <button class="link" @click="got.refetch()">Try again</button>
      </p>
      <p v-else-if="said?.why" class="px-3 py-2 text-mulberry" role="status" data-why>{{ said.why }}</p>
      <p v-else-if="said?.waits" class="px-3 py-2 text-honey" role="status">{{ said.waits }}.</p>
      <FigurePart
        v-else-if="said?.figure"
        :figure="said.figure"
        :to="open ? to : undefined"
        :counted="said.counted"
      />
      <ChartPart
        v-else-if="said?.chart"
        :drawing="said.chart"
        :spec="said.spec ?? {}"
        :fixed="!open"
        :view="part.view ?? ''"
        :answers="answers"
      />
      <LinesPart
        v-else-if="said?.lines"
        :name="name"
        :said="said"
        :open="open"
        :view="part.view ?? ''"
        :answers="answers"
      />
      <TextPart v-else-if="isText && said" :html="said.html ?? ''" :name="name" />
    </div>
    <p
      v-if="problems && !said?.why"
      class="truncate px-3 pb-1 text-xs text-honey"
      :title="problems"
      data-problems
    >
      {{ problems }}
    </p>
    <div
      v-if="!fixed"
      class="absolute top-1 right-1 flex items-center gap-1 bg-sheet px-1 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 print:hidden [@media(hover:none)]:opacity-100"
      :class="!isText && '!top-auto !right-6 bottom-0.5'"
    >
      <Grip v-if="reorder" :reorder="reorder" :index="index" :name="name" />
      <button class="link text-xs" :aria-label="`Edit ${name}`" data-edit-part @click="edit">edit</button>
    </div>
    <button
      v-if="stretch && !fixed"
      class="absolute right-0 bottom-0 size-4 cursor-nwse-resize touch-none opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 print:hidden [@media(hover:none)]:opacity-100"
      :aria-label="`${name}: ${size.wide} columns wide, ${size.high} rows high; stretch with the arrow keys`"
      title="Pull, or use the arrow keys"
      data-stretch
      v-bind="stretch.corner(part)"
    >
      <svg viewBox="0 0 16 16" class="size-full stroke-mulberry" aria-hidden="true">
        <path d="M14 4 4 14M14 9l-5 5" fill="none" stroke-width="1.5" />
      </svg>
    </button>
  </section>
</template>
