<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { Document, Field, LinkedOffer } from '../../api/client'
import { takeOffer } from '../derivedFields'
import { addColumn, moveColumn, plainColumns, removeColumn, setColumn, toggleTotal } from '../document'
import Grip from '../../shell/Grip.vue'
import { useReorder } from '../../shell/useReorder'
import ColumnRow from './ColumnRow.vue'
import FieldFinder from './FieldFinder.vue'

/** All columns as one ordered list: order, heading, totals, format; new ones are found by typing. */
const props = defineProps<{
  document: Document
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  standard: readonly string[]
  records: string
  offers: readonly LinkedOffer[]
}>()
const emit = defineEmits<{ change: [doc: Document] }>()
const list = useTemplateRef('list')
/** Linked records, by the way to them. */
const paths = computed(() => [
  ...new Set(props.fields.filter((f) => f.way.length && !f.kind).map((f) => f.way.join(' › '))),
])

function addAll(path: string) {
  const shown = new Set(props.document.columns.map((c) => c.field))
  const more = props.fields.filter((f) => f.way.join(' › ') === path && !f.kind && !shown.has(f.path))
  emit('change', {
    ...props.document,
    columns: [...props.document.columns, ...plainColumns(more.map((f) => f.path))],
  })
}
function addOffer(offer: LinkedOffer) {
  const { doc, made } = takeOffer(props.document, offer, (key) => props.byPath.has(key))
  emit('change', addColumn(doc, made.key))
}
const reorder = useReorder(
  list,
  () => props.document.columns.length,
  (from, to) => emit('change', moveColumn(props.document, from, to)),
)
const label = (path: string) => props.byPath.get(path)?.label ?? path
</script>

<template>
  <div>
    <FieldFinder
      stays
      :fields="fields"
      :set="records"
      :used="document.columns.map((c) => c.field)"
      :offers="offers"
      hint="Type to find a field, or linked records; Enter adds it as a column"
      @choose="emit('change', addColumn(document, $event.path))"
      @offer="addOffer"
    />
    <h2 class="heading mt-4 mb-1 text-base">
      {{ document.columns.length }}
      {{ document.columns.length === 1 ? 'column' : 'columns, from left to right' }}
    </h2>
    <ol ref="list" class="max-h-80 overflow-auto">
      <li
        v-for="(c, i) in document.columns"
        :key="`${i} ${c.field}`"
        class="flex items-start gap-2 border-b border-rule py-1"
        :data-place="i"
      >
        <Grip :reorder="reorder" :index="i" :name="`${label(c.field)}, column ${i + 1}`" />
        <ColumnRow
          :column="c"
          :field="byPath.get(c.field)"
          :dragged="reorder.dragged.value === i"
          @change="emit('change', setColumn(document, i, $event))"
          @total="emit('change', toggleTotal(document, i, $event))"
          @remove="emit('change', removeColumn(document, i))"
        />
      </li>
    </ol>
    <p class="mt-3 flex items-baseline gap-6">
      <button class="link" @click="emit('change', { ...document, columns: plainColumns(standard) })">
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
