<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import type { Document, Field, Fn, Group } from '../../api/client'
import OperandInput from './OperandInput.vue'

/** Which groups of a level are kept by a total of their own, and what becomes of the others. */
type Keep = NonNullable<Group['keep']>
const props = defineProps<{
  document: Document
  fields: ReadonlyMap<string, Field>
  keep: Group['keep']
  /** What a group is one of: "claims". */
  many: string
}>()
const emit = defineEmits<{ change: [keep: Group['keep']] }>()

const start = props.keep
const form = reactive({
  how: start ? (start.share ? 'share' : 'test') : 'all',
  of: start?.field ? `${start.field} ${start.fn ?? ''}` : '',
  op: start?.op ?? ('over' as NonNullable<Keep['op']>),
  value: start?.value ?? '',
  to: start?.to ?? '',
  share: start?.share ?? '80',
  others: start?.others ?? ('out' as NonNullable<Keep['others']>),
})
interface Figure {
  id: string
  label: string
  type: Field['type']
  field?: string
  fn?: Fn
  percent?: string
}
/** The totals that can decide: the number of records, and what the columns total. */
const figures = computed<Figure[]>(() => {
  const out: Figure[] = [{ id: '', label: `number of ${props.many}`, type: 'whole' }]
  const add = (c: { field: string; heading?: string }, fn: Fn | undefined, percent?: string) => {
    const f = props.fields.get(c.field)
    const words = f?.fns.find((x) => x.fn === fn)?.label
    const counts = fn === 'distinct' || fn === 'filled' || fn === 'blanks'
    const id = `${c.field} ${fn ?? ''}`
    if (!f || (!f.numeric && !counts && f.type !== 'date' && f.type !== 'datetime')) return
    if (out.some((x) => x.id === id)) return
    const label = [words, (c.heading || f.label).toLowerCase()].filter(Boolean).join(' ')
    out.push({ id, label, type: counts ? 'whole' : f.type, field: c.field, fn, percent })
  }
  for (const c of props.document.columns) {
    if (props.fields.get(c.field)?.kind === 'per_total') add(c, undefined)
    else for (const t of c.totals ?? []) if (!t.show) add(c, t.fn, t.percent)
  }
  if (start?.field) add({ field: start.field }, start.fn, start.percent)
  return out
})
const figure = computed(() => figures.value.find((f) => f.id === form.of) ?? figures.value[0]!)
/** Sums and counts have parts that make up a share of the whole. */
const adds = computed(
  () => !figure.value.field || ['sum', 'filled', 'blanks'].includes(figure.value.fn ?? ''),
)
const dated = computed(() => figure.value.type === 'date' || figure.value.type === 'datetime')
const ops = computed<{ op: NonNullable<Keep['op']>; label: string }[]>(() => [
  { op: 'over', label: dated.value ? 'is after' : 'is over' },
  { op: 'at_least', label: dated.value ? 'is on or after' : 'is at least' },
  { op: 'under', label: dated.value ? 'is before' : 'is under' },
  { op: 'at_most', label: dated.value ? 'is on or before' : 'is at most' },
  { op: 'is', label: 'is' },
  { op: 'between', label: 'is between' },
])
const made = computed<Keep | null | undefined>(() => {
  if (form.how === 'all') return undefined
  const { field, fn, percent } = figure.value
  const of = { field, fn, percent, others: form.others === 'rest' ? form.others : undefined }
  if (form.how === 'share') return form.share && adds.value ? { ...of, share: String(form.share) } : null
  if (!form.value || (form.op === 'between' && !form.to)) return null
  return { ...of, op: form.op, value: form.value, to: form.op === 'between' ? form.to : undefined }
})
// What is not whole yet changes nothing; what says the same as before is no change, though the view
// around it has changed by it.
watch(
  () => JSON.stringify(made.value),
  () => made.value !== null && emit('change', made.value),
)
</script>

<template>
  <fieldset class="mt-3" data-keep>
    <legend class="quiet mb-1">Groups that are kept</legend>
    <div class="flex flex-wrap items-baseline gap-x-3 gap-y-1.5">
      <select v-model="form.how" class="field w-auto py-0.5" aria-label="Which groups are kept" data-how>
        <option value="all">all of them</option>
        <option value="test">only those whose …</option>
        <option value="share">the largest that make up …</option>
      </select>
      <template v-if="form.how !== 'all'">
        <select v-model="form.of" class="field w-auto py-0.5" aria-label="Total that decides" data-keep-of>
          <option v-for="f in figures" :key="f.id" :value="f.id">
            {{ form.how === 'share' ? `of the ${f.label}` : f.label }}
          </option>
        </select>
        <template v-if="form.how === 'test'">
          <select v-model="form.op" class="field w-auto py-0.5" aria-label="Test of the total">
            <option v-for="o in ops" :key="o.op" :value="o.op">{{ o.label }}</option>
          </select>
          <span class="w-32"><OperandInput v-model="form.value" :type="figure.type" label="Bound" /></span>
          <template v-if="form.op === 'between'"
            ><span class="quiet">and</span>
            <span class="w-32"
              ><OperandInput v-model="form.to" :type="figure.type" label="Upper bound" /></span
          ></template>
        </template>
        <label v-else class="flex items-baseline gap-1">
          <input v-model="form.share" class="field w-20 py-0.5" aria-label="Share" data-share-of />
          <span>%</span>
        </label>
      </template>
    </div>
    <p v-if="form.how === 'share' && !adds" class="mt-1 text-mulberry" role="alert">
      The {{ figure.label }} of parts does not add up to that of the whole. Choose a sum or a count.
    </p>
    <div v-if="form.how !== 'all'" class="mt-2 flex gap-5" role="radiogroup" aria-label="The others">
      <label class="flex items-center gap-1.5"
        ><input v-model="form.others" type="radio" value="out" class="accent-pine" /> leave the others
        out</label
      >
      <label class="flex items-center gap-1.5"
        ><input v-model="form.others" type="radio" value="rest" class="accent-pine" data-rest /> put them into
        one</label
      >
    </div>
  </fieldset>
</template>
