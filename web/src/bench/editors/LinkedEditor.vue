<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import type { Condition, Document, Field, LinkBy, Linked, Phrase } from '../../api/client'
import { useFields } from '../useFields'
import { complete, likeliest, startOf } from './condition'
import ConditionForm from './ConditionForm.vue'
import FieldFinder from './FieldFinder.vue'
import OperandInput from './OperandInput.vue'
import StepEffect from './StepEffect.vue'

/** Edits a condition on the records that link here: whether there are any, how many, the latest, their sum. */
const props = defineProps<{
  source: LinkBy
  linked: Linked | null
  phrase: Phrase | undefined
  fault: string
}>()
const emit = defineEmits<{
  change: [condition: Condition | null]
  remove: []
  beside: [kind: 'all' | 'any']
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
  where: [...(props.linked?.where?.all ?? (props.linked?.where ? [props.linked.where] : []))],
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
  const where = form.where.length > 1 ? { all: [...form.where] } : form.where[0]
  const linked: Linked = { records: props.source.records, by: props.source.by, test: form.test, where }
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

/** Which field is being chosen: for the records that count, or for the one that decides. */
const finding = ref<'where' | 'meets' | null>(null)
const editing = ref<number | null>(null)
function choose(field: Field) {
  const start = complete(startOf(field), field) ?? { field: field.path, op: likeliest(field) }
  if (finding.value === 'meets') form.meets = start
  else editing.value = form.where.push(start) - 1
  finding.value = null
}
function changeWhere(i: number, c: Condition | null) {
  if (c) form.where[i] = c
}
function takeOut(i: number) {
  form.where.splice(i, 1)
  editing.value = null
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
        <button class="link mt-2" @click="finding = 'meets'">
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

    <h3 class="quiet mt-4 mb-1">
      {{ form.where.length ? `Of the ${source.many}, those count where` : `All ${source.many} count.` }}
    </h3>
    <div v-for="(c, i) in form.where" :key="i" class="border-b border-rule py-2">
      <template v-if="simple(c) && editing === i"
        ><ConditionForm
          :field="simple(c)!"
          :condition="c"
          :context="context"
          :fields="fields"
          @change="changeWhere(i, $event)"
      /></template>
      <p class="flex gap-4">
        <span class="flex-1">{{ simple(c)?.label ?? 'several conditions together' }}</span>
        <button v-if="simple(c) && editing !== i" class="link" @click="editing = i">change</button>
        <button class="link" @click="takeOut(i)">take out</button>
      </p>
    </div>
    <FieldFinder
      v-if="finding"
      class="mt-2"
      :fields="fields"
      :hint="`Type to find a field of the ${source.many}`"
      @choose="choose"
    />
    <button v-else class="link mt-1" data-where @click="finding = 'where'">
      {{ form.where.length ? 'and …' : 'only some of them …' }}
    </button>
    <StepEffect
      :step="phrase?.step"
      :fault="fault"
      @remove="emit('remove')"
      @beside="emit('beside', $event)"
    />
  </div>
</template>
