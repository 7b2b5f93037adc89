<script setup lang="ts">
import { computed } from 'vue'
import type { Document, Field, Phrase } from '../../api/client'
import { setCondition } from '../document'
import { asked, type AskedForm } from './answers'
import QuestionStrip from './QuestionStrip.vue'
import type { Asking } from './useAnswers'

/** The questions of a view. */
const props = defineProps<{
  asking: Asking
  document: Document
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  phrases: readonly Phrase[]
}>()
const phraseAt = (path: string) => props.phrases.find((p) => p.path === path)
const questions = computed(() =>
  props.asking.questions.value.map((q) =>
    asked(q.condition, props.asking.answers.value, phraseAt(q.path)?.text),
  ),
)
/** The context is the view without the question, so that counts beside values follow the other answers. */
function formOf(name: string): AskedForm {
  const q = props.asking.questions.value.find((x) => x.condition.ask?.name === name)
  return {
    field: props.byPath.get(q?.condition.field ?? ''),
    fields: props.fields,
    context: q ? setCondition(props.document, q.path, null) : props.document,
    dates: phraseAt(q?.path ?? '')?.step?.dates,
  }
}
</script>

<template>
  <QuestionStrip
    label="Questions of this view"
    :questions="questions"
    :form-of="formOf"
    @answer="asking.answer"
    @forget="asking.forget"
  />
</template>
