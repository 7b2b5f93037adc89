<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'
import type { Document, Field } from '../../api/client'
import { addColumn, moveColumn, removeColumn, setColumn, toggleTotal } from '../document'
import FieldFinder from './FieldFinder.vue'

/** All columns as one ordered list: order, heading, totals; new ones are found by typing. */
const props = defineProps<{ document: Document; fields: readonly Field[]; byPath: ReadonlyMap<string, Field>; standard: readonly string[] }>()
const emit = defineEmits<{ change: [doc: Document] }>()
const list = useTemplateRef('list')
const dragged = ref<number | null>(null)

async function move(from: number, to: number) {
  if (to < 0 || to >= props.document.columns.length) return
  emit('change', moveColumn(props.document, from, to))
  await nextTick()
  list.value?.querySelectorAll<HTMLElement>('[data-grip]')[to]?.focus()
}
function dragOver(index: number) {
  if (dragged.value === null || dragged.value === index) return
  emit('change', moveColumn(props.document, dragged.value, index))
  dragged.value = index
}
function gripKey(event: KeyboardEvent, index: number) {
  const to = { ArrowUp: index - 1, ArrowDown: index + 1, Home: 0, End: props.document.columns.length - 1 }[event.key]
  if (to === undefined) return
  event.preventDefault()
  void move(index, to)
}
const label = (path: string) => props.byPath.get(path)?.label ?? path
</script>

<template>
  <div>
    <FieldFinder stays :fields="fields" :used="document.columns.map((c) => c.field)" hint="Type to find a field; Enter adds it as a column" @choose="emit('change', addColumn(document, $event.path))" />
    <h2 class="heading mt-4 mb-1 text-base">{{ document.columns.length }} columns, from left to right</h2>
    <ol ref="list" class="max-h-80 overflow-auto">
      <li
        v-for="(c, i) in document.columns" :key="`${i} ${c.field}`" class="flex items-center gap-2 border-b border-rule py-1" :class="dragged === i && 'bg-mulberry-wash'"
        @dragover.prevent="dragOver(i)" @drop.prevent="dragged = null"
      >
        <button
          data-grip class="quiet cursor-grab px-1" draggable="true" :aria-label="`${label(c.field)}, column ${i + 1}: move with the arrow keys`" title="Drag, or use the arrow keys"
          @dragstart="dragged = i" @dragend="dragged = null" @keydown="gripKey($event, i)"
        >⋮⋮</button>
        <input
          class="field w-44 shrink-0 py-0.5" :value="c.heading ?? ''" :placeholder="label(c.field)" :aria-label="`Heading of ${label(c.field)}`"
          @change="emit('change', setColumn(document, i, { heading: ($event.target as HTMLInputElement).value.trim() || undefined }))"
        />
        <span class="flex min-w-0 flex-1 flex-wrap gap-x-2.5 text-xs">
          <button
            v-for="f in byPath.get(c.field)?.fns ?? []" :key="f.fn" class="border-b" :aria-pressed="!!c.totals?.some((t) => t.fn === f.fn)"
            :class="c.totals?.some((t) => t.fn === f.fn) ? 'border-mulberry font-medium text-mulberry' : 'quiet border-transparent'"
            @click="emit('change', toggleTotal(document, i, f.fn))"
          >{{ f.label }}</button>
        </span>
        <button class="quiet px-1.5 text-base" :aria-label="`Take out ${label(c.field)}`" title="Take out" @click="emit('change', removeColumn(document, i))">×</button>
      </li>
    </ol>
    <p class="mt-3"><button class="link" @click="emit('change', { ...document, columns: standard.map((field) => ({ field })) })">Back to standard columns</button></p>
  </div>
</template>
