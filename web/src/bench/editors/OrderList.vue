<script setup lang="ts">
import { computed, toRef, useTemplateRef } from 'vue'
import type { Document, Field } from '../../api/client'
import Grip from '../../shell/Grip.vue'
import { useReorder } from '../../shell/useReorder'
import { useValues } from '../useValues'

/** The values of a level in an order of one's own; values that come later follow by label. */
const props = defineProps<{ field: Field; document: Document; values: readonly string[] }>()
const emit = defineEmits<{ change: [values: string[]] }>()
const list = useTemplateRef('list')
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
const reorder = useReorder(list, () => shown.value.length, put)
</script>

<template>
  <ol ref="list" class="mt-2 max-h-56 overflow-auto border border-rule" data-order-list>
    <li
      v-for="(v, i) in shown"
      :key="v"
      class="flex items-center gap-2 border-b border-rule px-2 py-0.5 last:border-0"
      :class="reorder.dragged.value === i && 'bg-pine-wash'"
      :data-place="i"
    >
      <Grip :reorder="reorder" :index="i" :name="`${v}, place ${i + 1}`" />{{ v }}
    </li>
  </ol>
</template>
