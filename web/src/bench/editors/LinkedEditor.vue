<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import type { Condition, Document, Field, LinkBy, Linked, LinkedValue, Phrase } from '../../api/client'
import { freshKey, freshLabel } from '../derivedFields'
import { useFields } from '../useFields'
import { complete, likeliest, startOf } from './condition'
import ConditionForm from './ConditionForm.vue'
import FieldFinder from './FieldFinder.vue'
import { joined, nameOfTaken, partsOf, valueOf } from './linked'
import LinkedWhere from './LinkedWhere.vue'
import OperandInput from './OperandInput.vue'
import StepEffect from './StepEffect.vue'

/** Edits a condition on the records that link here: whether there are any, how many, the latest, their sum. */
const props = defineProps<{
  document: Document
  taken: (key: string) => boolean
  source: LinkBy
  linked: Linked | null
  phrase: Phrase | undefined
  fault: string
}>()
const emit = defineEmits<{
  change: [condition: Condition | null]
  remove: []
  beside: [kind: 'all' | 'any']
  show: [made: LinkedValue, fn?: string]
}>()

const { fields, byPath } = useFields(computed(() => props.source.records))
const context = computed<Document>(() => ({ gavrik: 1, records: props.source.records, columns: [] }))
const tests: { test: Linked['test']; label: string }[] = [
  { test: 'any', label: 'there are some' },
  { test: 'none', label: 'there are none' },
  { test: 'at_least', label: 'at least …' },
  { test: 'at_most', label: 'at most …' },
  { test: 'latest', label: 'the latest …' },
  { test: 'earliest', label: 'the earliest …' },
  { test: 'sum', label: 'their total …' },
  { test: 'average', label: 'their average …' },
]
const form = reactive({
  test: props.linked?.test ?? ('any' as Linked['test']),
  n: props.linked?.n ?? 1,
  date: props.linked?.date ?? '',
  field: props.linked?.field ?? '',
  op: props.linked?.op ?? ('at_least' as NonNullable<Linked['op']>),
  value: props.linked?.value ?? '',
  to: props.linked?.to ?? '',
  where: [...partsOf(props.linked?.where)],
  meets: props.linked?.meets,
})
const dates = computed(() =>
  fields.value.filter((f) => (f.type === 'date' || f.type === 'datetime') && f.way.length === 0),
)
const figures = computed(() => fields.value.filter((f) => f.fns.some((x) => x.fn === form.test)))
const dated = computed(() => form.test === 'latest' || form.test === 'earliest')
const figured = computed(() => form.test === 'sum' || form.test === 'average')
watch(
  [() => form.test, fields],
  () => {
    if (dated.value && !form.date) form.date = dates.value[0]?.path ?? ''
    if (figured.value && !figures.value.some((f) => f.path === form.field))
      form.field = figures.value[0]?.path ?? ''
  },
  { immediate: true },
)
const ops = computed(
  () =>
    byPath.value
      .get(form.field)
      ?.ops.filter((o) => ['over', 'at_least', 'under', 'at_most', 'between'].includes(o.op)) ?? [],
)

const made = computed<Condition | null>(() => {
  const { records, by } = props.source
  const linked: Linked = { records, by, test: form.test, where: joined(form.where) }
  if (form.test === 'at_least' || form.test === 'at_most') return { linked: { ...linked, n: form.n } }
  if (dated.value)
    return form.date && form.meets ? { linked: { ...linked, date: form.date, meets: form.meets } } : null
  if (!figured.value) return { linked }
  if (!form.field || !form.value || (form.op === 'between' && !form.to)) return null
  return {
    linked: {
      ...linked,
      field: form.field,
      op: form.op,
      value: form.value,
      to: form.op === 'between' ? form.to : undefined,
    },
  }
})
watch(made, (m) => emit('change', m), { immediate: true })

/** The field that the chosen record is asked about is being found. */
const finding = ref(false)
function choose(field: Field) {
  form.meets = complete(startOf(field), field) ?? { field: field.path, op: likeliest(field) }
  finding.value = false
}
/** The value that the condition looks at, as a column of its own. */
function show() {
  const linked = made.value?.linked
  if (!linked) return
  const value = valueOf(linked)
  const label = freshLabel(
    props.document,
    nameOfTaken(value.take, byPath.value.get(value.field ?? ''), props.source.many),
  )
  const adds = value.take === 'count' || value.take === 'sum'
  emit(
    'show',
    { ...value, label, key: freshKey(props.document, label, props.taken) },
    adds ? 'sum' : undefined,
  )
}
const simple = (c: Condition | undefined) => (c?.field ? byPath.value.get(c.field) : undefined)
</script>

<template>
  <div>
    <div class="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h2 class="heading text-base">{{ source.label }}</h2>
      <button
        v-for="t in tests"
        :key="t.test"
        class="border-b-2 pb-0.5"
        :aria-pressed="t.test === form.test"
        :data-test="t.test"
        :class="
          t.test === form.test ? 'border-mulberry font-medium text-mulberry' : 'quiet border-transparent'
        "
        @click="form.test = t.test"
      >
        {{ t.label }}
      </button>
    </div>
    <p v-if="form.test === 'at_least' || form.test === 'at_most'" class="flex items-baseline gap-2">
      <input
        v-model.number="form.n"
        data-first
        class="field w-20 py-0.5"
        type="number"
        :min="form.test === 'at_least' ? 1 : 0"
        aria-label="How many"
      />
      {{ source.many }}
    </p>
    <template v-else-if="dated">
      <label class="flex items-baseline gap-2"
        ><span class="quiet">by</span>
        <select v-model="form.date" class="field w-auto py-0.5">
          <option v-for="f in dates" :key="f.path" :value="f.path">{{ f.label }}</option>
        </select></label
      >
      <div class="mt-3 border-l-2 border-mulberry pl-3">
        <ConditionForm
          v-if="form.meets && simple(form.meets)"
          :key="form.meets.field"
          :field="simple(form.meets)!"
          :condition="form.meets"
          :context="context"
          :fields="fields"
          @change="form.meets = $event ?? form.meets"
        />
        <FieldFinder
          v-if="finding"
          class="mt-2"
          :fields="fields"
          :hint="`Type to find a field of the ${source.many}`"
          @choose="choose"
        />
        <button v-else class="link mt-2" @click="finding = true">
          {{ form.meets ? 'ask another field of it' : 'what must it meet?' }}
        </button>
      </div>
    </template>
    <p v-else-if="figured" class="flex items-baseline gap-2">
      <select v-model="form.field" class="field w-auto py-0.5" aria-label="Field">
        <option v-for="f in figures" :key="f.path" :value="f.path">{{ f.label }}</option>
      </select>
      <select v-model="form.op" class="field w-auto py-0.5" aria-label="Test">
        <option v-for="o in ops" :key="o.op" :value="o.op">{{ o.label }}</option>
      </select>
      <OperandInput v-model="form.value" :type="byPath.get(form.field)?.type ?? 'decimal'" label="Value" />
      <template v-if="form.op === 'between'"
        ><span>to</span
        ><OperandInput v-model="form.to" :type="byPath.get(form.field)?.type ?? 'decimal'" label="To"
      /></template>
    </p>

    <LinkedWhere v-model="form.where" :source="source" :fields="fields" />
    <p v-if="made" class="mt-3">
      <button class="link" data-show @click="show">Show it as a column</button>
    </p>
    <StepEffect
      :step="phrase?.step"
      :fault="fault"
      @remove="emit('remove')"
      @beside="emit('beside', $event)"
    />
  </div>
</template>
