<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { Document, Field } from '../../api/client'
import { addColumn, moveColumn, removeColumn, setColumn, toggleTotal } from '../document'
import ColumnRow from './ColumnRow.vue'
import FieldFinder from './FieldFinder.vue'

/** All columns as one ordered list: order, heading, totals, format; new ones are found by typing. */
const props = defineProps<{
  document: Document
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  standard: readonly string[]
  records: string
}>()
const emit = defineEmits<{ change: [doc: Document] }>()
const list = useTemplateRef('list')
const dragged = ref<number | null>(null)
/** Linked records, by the way to them. */
const paths = computed(() => [
  ...new Set(props.fields.filter((f) => f.way.length && !f.kind).map((f) => f.way.join(' › '))),
])

function addAll(path: string) {
  const shown = new Set(props.document.columns.map((c) => c.field))
  const more = props.fields.filter((f) => f.way.join(' › ') === path && !f.kind && !shown.has(f.path))
  emit('change', {
    ...props.document,
    columns: [...props.document.columns, ...more.map((f) => ({ field: f.path }))],
  })
}
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
  const to = { ArrowUp: index - 1, ArrowDown: index + 1, Home: 0, End: props.document.columns.length - 1 }[
    event.key
  ]
  if (to === undefined) return
  event.preventDefault()
  void move(index, to)
}
const label = (path: string) => props.byPath.get(path)?.label ?? path
</script>

<template>
  <div>
    <FieldFinder
      stays
      :fields="fields"
      :set="records"
      :used="document.columns.map((c) => c.field)"
      hint="Type to find a field; Enter adds it as a column"
      @choose="emit('change', addColumn(document, $event.path))"
    />
    <h2 class="heading mt-4 mb-1 text-base">{{ document.columns.length }} columns, from left to right</h2>
    <ol ref="list" class="max-h-80 overflow-auto">
      <li
        v-for="(c, i) in document.columns"
        :key="`${i} ${c.field}`"
        class="flex items-start gap-2 border-b border-rule py-1"
        @dragover.prevent="dragOver(i)"
        @drop.prevent="dragged = null"
      >
        <button
          data-grip
          class="quiet cursor-grab px-1 py-1"
          draggable="true"
          :aria-label="`${label(c.field)}, column ${i + 1}: move with the arrow keys`"
          title="Drag, or use the arrow keys"
          @dragstart="dragged = i"
          @dragend="dragged = null"
          @keydown="gripKey($event, i)"
        >
          ⋮⋮
        </button>
        <ColumnRow
          :column="c"
          :field="byPath.get(c.field)"
          :dragged="dragged === i"
          @change="emit('change', setColumn(document, i, $event))"
          @total="emit('change', toggleTotal(document, i, $event))"
          @remove="emit('change', removeColumn(document, i))"
        />
      </li>
    </ol>
    <p class="mt-3 flex items-baseline gap-6">
      <button
        class="link"
        @click="emit('change', { ...document, columns: standard.map((field) => ({ field })) })"
      >
        Back to standard columns
      </button>
      <label v-if="paths.length" class="ml-auto flex items-baseline gap-2 text-[13px]"
        ><span class="quiet">Add all fields of</span>
        <select
          class="field !w-56 py-0.5"
          value=""
          data-add-all
          @change="
            addAll(($event.target as HTMLSelectElement).value)
            ;($event.target as HTMLSelectElement).value = ''
          "
        >
          <option value="">…</option>
          <option v-for="w in paths" :key="w" :value="w">{{ w }}</option>
        </select></label
      >
    </p>
  </div>
</template>
