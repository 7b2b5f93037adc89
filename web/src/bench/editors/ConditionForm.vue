<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import type { Bin, Condition, Document, Field, Op } from '../../api/client'
import Spread from '../lens/Spread.vue'
import CyclePicker from './CyclePicker.vue'
import OperandInput from './OperandInput.vue'
import PeriodEditor from './PeriodEditor.vue'
import ValuePicker from './ValuePicker.vue'
import { operandOf } from '../../api/operators'
import { complete, keeps, startOf } from './condition'

/** What is asked of one field: an operator and its operands. */
const props = defineProps<{
  field: Field
  condition: Condition | null
  /** The view without this condition, for the counts beside values. */
  context: Document
  fields: readonly Field[]
  /** The days that a relative period stands for. */
  dates?: string
  /** A reader answers: what is asked is given, only the operands are open. */
  answering?: boolean
}>()
const emit = defineEmits<{ change: [condition: Condition | null, op: Op] }>()

const form = reactive<Condition>(props.condition ? { ...props.condition } : startOf(props.field))
const operand = computed(() => operandOf[form.op ?? 'is'])
if (operand.value === 'period' && !form.period) form.period = { which: 'past', unit: 'day', n: 30 }
watch(form, () => emit('change', complete(form, props.field), form.op ?? 'is'))

const choice = computed(() => props.field.ops.find((o) => o.op === form.op))
const lists = computed(() => operand.value === 'list')
const periods = computed(() => operand.value === 'period')
const ranges = computed(() => operand.value === 'two')
const cycles = computed(() => operand.value === 'weekdays' || operand.value === 'hours')
/** A stretch of the distribution can be chosen. */
const spread = computed(
  () =>
    form.other === undefined &&
    !lists.value &&
    !bare.value &&
    !cycles.value &&
    props.field.type !== 'text' &&
    props.field.type !== 'yesno' &&
    props.field.type !== 'picture',
)
function chooseStretch(first: Bin, last: Bin) {
  if (first.value !== undefined || !first.from || !last.to) return
  form.op = form.op === 'not_between' ? 'not_between' : 'between'
  form.value = first.from
  form.to = last.to
}
/** What a date without a second bound lets in that one may not think of. */
const openEnd = computed(() => {
  if (props.field.type !== 'date' && props.field.type !== 'datetime') return ''
  if (form.op === 'under' || form.op === 'at_most')
    return 'Everything before is kept, however long ago. Blanks are not.'
  if (form.op === 'over' || form.op === 'at_least')
    return 'Everything after is kept, the future too. Blanks are not.'
  return ''
})
const dated = (type: string) => type === 'date' || type === 'datetime'
const bare = computed(() => operand.value === 'none')
const comparable = computed(() =>
  props.fields.filter(
    (f) =>
      f.path !== props.field.path &&
      (f.type === props.field.type || (dated(f.type) && dated(props.field.type))),
  ),
)

function chooseOp(op: string) {
  const wasList = lists.value
  form.op = op as Op
  if (cycles.value) form.values = []
  if (lists.value && !wasList) form.values = form.value ? [form.value] : []
  if (periods.value && !form.period) form.period = { which: 'past', unit: 'day', n: 30 }
}
</script>

<template>
  <div>
    <div v-if="!answering" class="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h2 class="heading text-base">{{ field.label }}</h2>
      <button
        v-for="o in field.ops"
        :key="o.op"
        class="border-b-2 pb-0.5"
        :aria-pressed="o.op === form.op"
        :class="o.op === form.op ? 'border-mulberry font-medium text-mulberry' : 'quiet border-transparent'"
        @click="chooseOp(o.op)"
      >
        {{ o.label }}
      </button>
    </div>
    <ValuePicker
      v-if="lists"
      v-model="form.values"
      :field="field"
      :context="context"
      :leaves-out="form.op === 'none_of'"
    />
    <CyclePicker v-else-if="cycles" :key="form.op" v-model="form.values" :hours="operand === 'hours'" />
    <PeriodEditor v-else-if="periods && form.period" v-model="form.period" :dates="dates ?? ''" />
    <div v-else-if="!bare" class="flex items-center gap-3">
      <template v-if="form.other !== undefined">
        <select v-model="form.other" class="field" aria-label="Field to compare with">
          <option v-for="f in comparable" :key="f.path" :value="f.path">
            {{ f.label }}{{ f.way.length ? ` (${f.way.join(' › ')})` : '' }}
          </option>
        </select>
      </template>
      <template v-else>
        <OperandInput v-model="form.value" :type="field.type" :label="ranges ? 'From' : 'Value'" />
        <template v-if="ranges"
          ><span>to</span><OperandInput v-model="form.to" :type="field.type" label="To"
        /></template>
      </template>
      <button
        v-if="!answering && choice?.fields && comparable.length"
        class="link shrink-0"
        @click="form.other = form.other === undefined ? comparable[0]?.path : undefined"
      >
        {{ form.other === undefined ? 'another field' : 'a value' }}
      </button>
    </div>
    <p v-if="operand === 'pattern'" class="quiet mt-2 text-[13px]">
      The whole text is compared: <b>*</b> stands for any characters or none, <b>?</b> for one. Case and
      accents do not matter.
    </p>
    <p v-if="openEnd" class="quiet mt-2 text-[13px]" data-open-end>{{ openEnd }}</p>
    <Spread
      v-if="spread"
      class="mt-3 !mb-0"
      :document="context"
      :field="field"
      :chosen="(b) => keeps(form, field.type, b.from, b.to)"
      caption="How the values are spread; drag to choose a stretch"
      @stretch="chooseStretch"
    />
  </div>
</template>
