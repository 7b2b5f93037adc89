<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref } from 'vue'
import type { ViewSummary } from '../api/client'
import { queries } from '../api/queries'
import { nearest } from '../shell/nearest'
import Popover from '../shell/Popover.vue'
import { useCombobox } from '../shell/useCombobox'
import { useBoard } from './board'
import { addPart, mostParts, type Show } from './document'

/** Finds the view whose part is put on the board, or puts words of one's own there. */
const props = defineProps<{ anchor: HTMLElement }>()
const emit = defineEmits<{ done: [] }>()
const board = useBoard()
const { history } = board
const typed = ref('')
const views = useQuery(queries.views())
const found = computed(() =>
  nearest(
    typed.value,
    (views.data.value?.views ?? []).filter((v) => v.kind === 'view'),
    (v) => ({ name: v.name, meaning: `${v.about} ${v.brief}`, path: v.records, values: v.fields }),
  ).slice(0, 60),
)
const { at, input, list, option, onKeydown } = useCombobox(found, (v) => put(v))
const full = computed(() => history.shown.value.parts.length >= mostParts)

/** A view that charts is put there as its chart; else what it says first. What is shown is chosen next. */
const showFor = (v: ViewSummary): Show => (v.charts ? 'chart' : v.levels ? 'groups' : 'table')
async function put(v: ViewSummary | null) {
  if (full.value) return
  history.step(
    addPart(
      history.kept.value,
      v ? { show: showFor(v), view: v.key } : { show: 'text', text: '## A heading\n\nWords of your own.' },
    ),
  )
  emit('done')
  await nextTick()
  const key = history.kept.value.parts.at(-1)!.key
  const frame = document.querySelector<HTMLElement>(`[data-part="${key}"]`)
  frame?.scrollIntoView({ block: 'nearest' })
  board.editing.value = { key, anchor: frame ?? props.anchor, fresh: true }
}
</script>

<template>
  <Popover
    :anchor="anchor"
    label="Put a part on the board"
    tone="mulberry"
    :width="560"
    :tall="480"
    @keep="emit('done')"
    @revert="emit('done')"
  >
    <p v-if="full" role="status" data-full>
      The board has {{ mostParts }} parts, and no more fit on one. Put some on a second board.
    </p>
    <template v-else>
      <div class="mb-2 flex items-baseline gap-4">
        <input
          v-model="typed"
          class="field"
          v-bind="input()"
          placeholder="Find a saved view by its words"
          aria-label="Find a view to put on the board"
          data-first
          data-find-view
          @keydown="onKeydown"
        />
        <button class="link whitespace-nowrap" data-add-text @click="put(null)">words of my own</button>
      </div>
      <ul v-bind="list" class="max-h-72 overflow-auto" aria-label="Views">
        <li
          v-for="(v, i) in found"
          :key="v.key"
          v-bind="option(i)"
          class="cursor-pointer border-b border-rule px-2 py-1.5"
          :class="i === at && 'bg-mulberry-wash'"
        >
          <b class="block truncate font-medium">{{ v.name }}</b><span
            class="block truncate text-xs"
            :class="v.broken ? 'text-mulberry' : 'quiet'"
            >{{ v.brief }}</span
          >
        </li>
      </ul>
      <p v-if="views.data.value && !found.length" class="quiet py-3">
        No saved view is called that. Save the view first; a board shows saved views.
      </p>
    </template>
  </Popover>
</template>
