<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import type { Condition, Document, Field, Op, Phrase } from '../../api/client'
import { formatCount } from '../../words'
import { isAnswered } from '../ask/answers'
import AskForm from '../ask/AskForm.vue'
import ConditionForm from './ConditionForm.vue'
import { likeliest } from './condition'
import StepEffect from './StepEffect.vue'

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
const emit = defineEmits<{
  change: [condition: Condition | null]
  remove: []
  beside: [kind: 'all' | 'any']
}>()
const typed = shallowRef<Condition | null>(props.condition)
const op = ref<Op>(props.condition?.op ?? likeliest(props.field))
const ask = shallowRef(props.condition?.ask)
function change(condition: Condition | null, chosen: Op) {
  op.value = chosen
  put(condition)
}
/** A question may propose nothing; any other condition needs its operands. */
function put(condition: Condition | null) {
  typed.value = condition
  const open = ask.value
    ? { ...(condition ?? { field: props.field.path, op: op.value }), ask: ask.value }
    : condition
  emit('change', open)
}
function changeAsk(next: Condition['ask']) {
  ask.value = next
  put(typed.value && isAnswered(typed.value) ? { ...typed.value, ask: undefined } : null)
}
</script>

<template>
  <div>
    <ConditionForm
      :field="field"
      :condition="condition"
      :context="context"
      :fields="fields"
      :dates="phrase?.step?.dates"
      @change="change"
    />
    <p v-if="phrase?.step?.unmatchedCount" class="mt-3 text-honey">
      {{ formatCount(phrase.step.unmatchedCount) }} of {{ formatCount(typed?.values?.length ?? 0) }} matched
      nothing: {{ phrase.step.unmatched.join(', ')
      }}{{ phrase.step.unmatchedCount > phrase.step.unmatched.length ? ' …' : '' }}
    </p>
    <AskForm :ask="ask" :field="field" :document="context" @change="changeAsk" />
    <StepEffect
      :step="phrase?.step"
      :fault="fault"
      @remove="emit('remove')"
      @beside="emit('beside', $event)"
    />
  </div>
</template>
