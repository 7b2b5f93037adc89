<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Document, Field, Total } from '../../api/client'
import { setTotal } from '../document'

/** What can be set of each total of a column: its label, the percent of a percentile, what is first, the levels that show it. */
const props = defineProps<{
  document: Document
  index: number
  field: Field
  fields: readonly Field[]
  levels: readonly string[]
}>()
const emit = defineEmits<{ change: [doc: Document] }>()

const totals = computed(() => props.document.columns[props.index]?.totals ?? [])
const open = ref<number | null>(null)
const set = (i: number, change: Partial<Total>) =>
  emit('change', setTotal(props.document, props.index, i, change))
const nameOf = (t: Total) =>
  t.label ||
  [
    t.fn === 'percentile'
      ? `${t.percent}th percentile`
      : (props.field.fns.find((f) => f.fn === t.fn)?.label ?? 'calculated'),
    t.show?.replace('_', ' of '),
  ]
    .filter(Boolean)
    .join(', ')
const deciding = computed(() =>
  props.fields.filter(
    (f) =>
      f.way.length === 0 && ['date', 'datetime', 'whole', 'decimal', 'money', 'duration'].includes(f.type),
  ),
)
const places = computed(() => ['All', ...props.levels])
const shows = (t: Total, level: number) => !t.levels?.length || t.levels.includes(level)
function toggle(i: number, t: Total, level: number) {
  const now = places.value.map((_, l) => l).filter((l) => (l === level ? !shows(t, l) : shows(t, l)))
  if (now.length) set(i, { levels: now.length === places.value.length ? undefined : now })
}
const typed = (event: Event) => (event.target as HTMLInputElement).value.trim()
</script>

<template>
  <section v-if="totals.length" class="mb-3" data-total-options>
    <div v-for="(t, i) in totals" :key="i" class="border-b border-rule py-1">
      <button
        class="flex w-full items-baseline text-left text-[13px]"
        :aria-expanded="open === i"
        @click="open = open === i ? null : i"
      >
        <span class="min-w-0 flex-1 truncate">{{ nameOf(t) }}</span><span class="link text-xs">{{
          open === i ? 'done' : 'set'
        }}</span>
      </button>
      <div v-if="open === i" class="space-y-1.5 py-1.5">
        <label class="block text-xs"
          ><span class="quiet">Label</span>
          <input
            class="field py-0.5"
            :value="t.label ?? ''"
            :placeholder="nameOf({ ...t, label: undefined })"
            @change="set(i, { label: typed($event) || undefined })"
        /></label>
        <label v-if="t.fn === 'percentile'" class="flex items-baseline gap-2 text-xs"
          ><span class="quiet">Not passed by</span>
          <input
            class="field w-20 py-0.5"
            type="number"
            min="0"
            max="100"
            step="any"
            :value="t.percent"
            data-percent
            @change="set(i, { percent: typed($event) || '90' })"
          /><span class="quiet">% of the values</span></label
        >
        <label v-if="t.fn === 'first' || t.fn === 'last'" class="block text-xs"
          ><span class="quiet">{{ t.fn === 'first' ? 'First' : 'Last' }} by</span>
          <select
            class="field py-0.5"
            :value="t.by ?? ''"
            data-by
            @change="set(i, { by: typed($event) || undefined })"
          >
            <option value="">the order of the records</option>
            <option v-for="f in deciding" :key="f.path" :value="f.path">{{ f.label }}</option>
          </select></label
        >
        <fieldset v-if="levels.length" class="text-xs">
          <legend class="quiet">Shown on the lines of</legend>
          <label v-for="(l, level) in places" :key="l" class="mr-3 inline-flex items-baseline gap-1"
            ><input
              type="checkbox"
              :checked="shows(t, level)"
              :data-on="level"
              @change="toggle(i, t, level)"
            />
            {{ l }}</label
          >
        </fieldset>
      </div>
    </div>
  </section>
</template>
