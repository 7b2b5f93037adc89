<script setup lang="ts">
import { shallowRef } from 'vue'
import type { Condition, Document, Field, Phrase } from '../../api/client'
import { n } from '../../words'
import ConditionForm from './ConditionForm.vue'
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
const emit = defineEmits<{ change: [condition: Condition | null]; remove: []; beside: [kind: 'all' | 'any'] }>()
const typed = shallowRef<Condition | null>(props.condition)
function change(condition: Condition | null) {
  typed.value = condition
  emit('change', condition)
}
</script>

<template>
  <div>
    <ConditionForm :field="field" :condition="condition" :context="context" :fields="fields" :dates="phrase?.step?.dates" @change="change" />
    <p v-if="phrase?.step?.unmatchedCount" class="mt-3 text-honey">
      {{ n(phrase.step.unmatchedCount) }} of {{ n(typed?.values?.length ?? 0) }} matched nothing: {{ phrase.step.unmatched.join(', ') }}{{ phrase.step.unmatchedCount > phrase.step.unmatched.length ? ' …' : '' }}
    </p>
    <StepEffect :step="phrase?.step" :fault="fault" @remove="emit('remove')" @beside="emit('beside', $event)" />
  </div>
</template>
