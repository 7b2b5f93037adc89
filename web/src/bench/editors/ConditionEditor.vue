<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import type { Condition, Document, Field, Phrase } from '../../api/client'
import OperandInput from './OperandInput.vue'
import PeriodEditor from './PeriodEditor.vue'
import ValuePicker from './ValuePicker.vue'
import { complete, startOf } from './condition'
import { n } from '../../words'

/** Edits one condition on one field; every change is tried out at once. */
const props = defineProps<{
  field: Field
  condition: Condition | null
  /** The view without this condition, for the counts beside values. */
  context: Document
  fields: readonly Field[]
  phrase: Phrase | undefined
  fault: string
}>()
const emit = defineEmits<{ change: [condition: Condition | null]; remove: []; beside: [kind: 'all' | 'any'] }>()

const form = reactive<Condition>(props.condition ? { ...props.condition } : startOf(props.field))
watch(form, () => emit('change', complete(form, props.field)))

const choice = computed(() => props.field.ops.find((o) => o.op === form.op))
const lists = computed(() => form.op === 'one_of' || form.op === 'none_of')
const periods = computed(() => form.op === 'in' || form.op === 'not_in')
const ranges = computed(() => form.op === 'between' || form.op === 'not_between')
const bare = computed(() => form.op === 'blank' || form.op === 'filled')
const comparable = computed(() => props.fields.filter((f) => f.path !== props.field.path && f.type === props.field.type))
const step = computed(() => props.phrase?.step)

function chooseOp(op: string) {
  const wasList = lists.value
  form.op = op
  if (lists.value && !wasList) form.values = form.value ? [form.value] : []
  if (periods.value && !form.period) form.period = { which: 'past', unit: 'day', n: 30 }
}
</script>

<template>
  <div>
    <div class="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h2 class="heading text-base">{{ field.label }}</h2>
      <button
        v-for="o in field.ops" :key="o.op" class="border-b-2 pb-0.5" :aria-pressed="o.op === form.op"
        :class="o.op === form.op ? 'border-mulberry font-medium text-mulberry' : 'quiet border-transparent'" @click="chooseOp(o.op)"
      >{{ o.label }}</button>
    </div>
    <ValuePicker v-if="lists" v-model="form.values" :field="field" :context="context" :leaves-out="form.op === 'none_of'" />
    <PeriodEditor v-else-if="periods && form.period" v-model="form.period" :dates="step?.dates ?? ''" />
    <div v-else-if="!bare" class="flex items-center gap-3">
      <template v-if="form.other !== undefined">
        <select v-model="form.other" class="field" aria-label="Field to compare with">
          <option v-for="f in comparable" :key="f.path" :value="f.path">{{ f.label }}{{ f.way.length ? ` (${f.way.join(' › ')})` : '' }}</option>
        </select>
      </template>
      <template v-else>
        <OperandInput v-model="form.value" :type="field.type" :label="ranges ? 'From' : 'Value'" />
        <template v-if="ranges"><span>to</span><OperandInput v-model="form.to" :type="field.type" label="To" /></template>
      </template>
      <button
        v-if="choice?.fields && comparable.length" class="link shrink-0"
        @click="form.other = form.other === undefined ? comparable[0]?.path : undefined"
      >{{ form.other === undefined ? 'another field' : 'a value' }}</button>
    </div>
    <p v-if="fault" class="mt-3 text-mulberry" role="alert">{{ fault }}</p>
    <p v-if="step?.unmatchedCount" class="mt-3 text-honey">
      {{ n(step.unmatchedCount) }} of {{ n(form.values?.length ?? 0) }} matched nothing: {{ step.unmatched.join(', ') }}{{ step.unmatchedCount > step.unmatched.length ? ' …' : '' }}
    </p>
    <p class="mt-3 flex flex-wrap items-baseline gap-x-5">
      <span v-if="step" data-effect>leaves <b class="text-mulberry">{{ n(step.left) }}</b>, alone takes away <b class="text-mulberry">{{ n(step.alone) }}</b></span>
      <span v-if="step?.blanksKept" class="quiet">{{ n(step.blanksKept) }} blanks are kept</span>
    </p>
    <p class="mt-3 flex gap-5 border-t border-rule pt-3">
      <button class="link" @click="emit('beside', 'any')">or …</button>
      <button class="link" @click="emit('beside', 'all')">and …</button>
      <button class="link ml-auto" @click="emit('remove')">Remove</button>
    </p>
  </div>
</template>
