<script setup lang="ts">
import { computed, nextTick, ref, toRef, useTemplateRef } from 'vue'
import type { Document, Field } from '../../api/client'
import { useValues } from '../useValues'

/** The values of a level in an order of one's own; values that come later follow by label. */
const props = defineProps<{ field: Field; document: Document; values: readonly string[] }>()
const emit = defineEmits<{ change: [values: string[]] }>()
const list = useTemplateRef('list')
const dragged = ref<number | null>(null)
const { data } = useValues(toRef(props, 'field'), toRef(props, 'document'), 300)
/** What was put into order, then what else there is. */
const shown = computed(() => {
  const labels = (data.value?.values ?? [])
    .map((v) => v.label)
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
  const placed = new Set(props.values.map((v) => v.toLowerCase()))
  return [...props.values, ...labels.filter((l) => !placed.has(l.toLowerCase()))]
})

function put(from: number, to: number) {
  if (to < 0 || to >= shown.value.length || from === to) return
  const next = [...shown.value]
  const [value] = next.splice(from, 1)
  if (value !== undefined) next.splice(to, 0, value)
  emit('change', next)
}
async function key(event: KeyboardEvent, i: number) {
  const to = { ArrowUp: i - 1, ArrowDown: i + 1, Home: 0, End: shown.value.length - 1 }[event.key]
  if (to === undefined) return
  event.preventDefault()
  put(i, to)
  await nextTick()
  list.value?.querySelectorAll<HTMLElement>('button')[to]?.focus()
}
function over(i: number) {
  if (dragged.value === null || dragged.value === i) return
  put(dragged.value, i)
  dragged.value = i
}
</script>

<template>
  <ol ref="list" class="mt-2 max-h-56 overflow-auto border border-rule" data-order-list>
    <li
      v-for="(v, i) in shown"
      :key="v"
      class="flex items-center gap-2 border-b border-rule px-2 py-0.5 last:border-0"
      :class="dragged === i && 'bg-pine-wash'"
      @dragover.prevent="over(i)"
      @drop.prevent="dragged = null"
    >
      <button
        class="quiet cursor-grab px-1"
        draggable="true"
        :aria-label="`${v}, place ${i + 1}: move with the arrow keys`"
        @dragstart="dragged = i"
        @dragend="dragged = null"
        @keydown="key($event, i)"
      >
        ⋮⋮</button
      >{{ v }}
    </li>
  </ol>
</template>
