<script setup lang="ts">
import { computed } from 'vue'
import type { ChartSpec, Document, Drawing, Field, Fn } from '../../api/client'
import { drawable } from '../document'
import Plot from './Plot.vue'

/** The chart of a view, above or beside its ledger, with what can be set of it. */
const props = defineProps<{ document: Document; drawing: Drawing; fields: ReadonlyMap<string, Field> }>()
const emit = defineEmits<{ change: [doc: Document]; mark: [group: string, column: number, text: string] }>()

const spec = computed<ChartSpec>(() => props.document.chart ?? {})
const kinds = ['bars', 'stacked', 'lines', 'areas', 'shares'] as const
const set = (change: Partial<ChartSpec>) =>
  emit('change', { ...props.document, chart: { ...spec.value, ...change } })

interface Choice {
  label: string
  field?: string
  fn?: Fn
}
const totals = computed<Choice[]>(() => [
  { label: 'number of records' },
  ...props.document.columns.flatMap((c) => {
    const f = props.fields.get(c.field)
    const name = c.heading || f?.label || c.field
    if (f?.kind === 'per_total') return [{ label: name, field: c.field }]
    return (c.totals ?? []).filter(drawable).map((t) => ({
      label: `${t.label || f?.fns.find((x) => x.fn === t.fn)?.label || t.fn} of ${name}`,
      field: c.field,
      fn: t.fn,
    }))
  }),
])
const chosen = computed(() =>
  Math.max(
    0,
    totals.value.findIndex(
      (t) => (t.field ?? '') === (spec.value.field ?? '') && (!spec.value.fn || t.fn === spec.value.fn),
    ),
  ),
)
function choose(event: Event) {
  const total = totals.value[Number((event.target as HTMLSelectElement).value)]
  set({ field: total?.field, fn: total?.fn })
}
function mark(series: number, place: number) {
  const m = props.drawing.series[series]?.marks[place]
  if (m?.leads) emit('mark', m.group ?? '', m.column, m.text)
}
const value = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <section
    class="flex min-h-0 flex-col bg-sheet"
    :class="spec.beside ? 'border-r border-rule' : 'border-b border-rule'"
    aria-label="Chart"
    data-chart
  >
    <div class="flex flex-wrap items-center gap-x-3 gap-y-1 px-5 pt-1.5 text-[13px] max-md:hidden">
      <select
        class="field !w-auto max-w-44 px-1 py-0.5"
        :value="chosen"
        aria-label="What is drawn"
        data-drawn-total
        @change="choose"
      >
        <option v-for="(t, i) in totals" :key="t.label" :value="i">{{ t.label }}</option>
      </select>
      <span class="flex gap-2.5">
        <button
          v-for="k in kinds"
          :key="k"
          class="border-b-2"
          :aria-pressed="drawing.kind === k"
          :data-kind="k"
          :title="drawing.fits === k ? 'The kind that fits these groups' : ''"
          :class="drawing.kind === k ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
          @click="set({ kind: k === drawing.fits ? undefined : k })"
        >
          {{ k }}
        </button>
      </span>
      <select
        class="field !w-auto px-1 py-0.5"
        :value="spec.order ?? ''"
        aria-label="Order along the axis"
        @change="set({ order: (value($event) || undefined) as ChartSpec['order'] })"
      >
        <option value="">as the groups stand</option>
        <option value="largest">largest first</option>
        <option value="smallest">smallest first</option>
      </select>
      <select
        class="field !w-auto px-1 py-0.5"
        :value="spec.tint ?? ''"
        aria-label="Colours"
        @change="set({ tint: (value($event) || undefined) as ChartSpec['tint'] })"
      >
        <option value="">many colours</option>
        <option value="pine">shades of pine</option>
        <option value="mulberry">shades of mulberry</option>
        <option value="slate">shades of slate</option>
      </select>
      <label class="flex items-center gap-1"
        ><input
          type="checkbox"
          :checked="!!spec.labels"
          @change="set({ labels: !spec.labels || undefined })"
        />
        figures</label
      >
      <button class="link ml-auto" @click="set({ beside: !spec.beside || undefined })">
        {{ spec.beside ? 'put above' : 'put beside' }}
      </button>
    </div>
    <p v-if="drawing.trouble" class="px-5 py-6" role="status" data-chart-trouble>{{ drawing.trouble }}</p>
    <Plot v-else class="min-h-0 flex-1" :drawing="drawing" :spec="spec" @mark="mark" />
    <p v-if="drawing.notes.length" class="quiet px-5 pb-1 text-xs">{{ drawing.notes.join(' ') }}</p>
  </section>
</template>
