<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Condition, Document, Field, Phrase } from '../../api/client'
import { setCondition } from '../document'
import ConditionForm from '../editors/ConditionForm.vue'
import Popover from '../../shell/Popover.vue'
import { givenWords, isAnswered, type Answer, type Question } from './answers'
import type { Asking } from './useAnswers'

/** The questions of the view with this run's answers, each changeable in place. */
const props = defineProps<{
  asking: Asking
  document: Document
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  phrases: readonly Phrase[]
}>()

const open = ref<{ question: Question; anchor: HTMLElement; before: Answer | undefined } | null>(null)
const phraseOf = (q: Question) => props.phrases.find((p) => p.path === q.path)
const nameOf = (q: Question) => q.condition.ask?.name ?? ''
/** The answer in the words of the brief, without the field. */
function said(q: Question): string {
  if (!isAnswered(q.condition)) return q.condition.ask?.required ? 'waits for an answer' : 'anything'
  if (q.condition.period)
    return phraseOf(q)?.text.replace(/^.*?\b(in|is in)\b /, '') ?? givenWords(q.condition)
  return givenWords(q.condition)
}
const own = (q: Question) => props.asking.answers.value[nameOf(q)] !== undefined
const field = computed(() => props.byPath.get(open.value?.question.condition.field ?? ''))
/** The view without this question, so that the counts beside values follow the other answers. */
const context = computed(() =>
  open.value ? setCondition(props.document, open.value.question.path, null) : props.document,
)

function begin(question: Question, event: MouseEvent) {
  open.value = {
    question,
    anchor: event.currentTarget as HTMLElement,
    before: props.asking.answers.value[nameOf(question)],
  }
}
function change(c: Condition | null) {
  if (!open.value) return
  const { value, to, values, period } = c ?? {}
  props.asking.answer(
    nameOf(open.value.question),
    JSON.parse(JSON.stringify({ value, to, values, period })) as Answer,
  )
}
function revert() {
  if (!open.value) return
  const { question, before } = open.value
  if (before) props.asking.answer(nameOf(question), before)
  else props.asking.forget(nameOf(question))
  open.value = null
}
</script>

<template>
  <div
    class="flex flex-wrap items-baseline gap-x-6 gap-y-1 border-b border-rule bg-sheet px-5 py-1.5 text-[13px] max-md:px-3"
    role="group"
    aria-label="Questions of this view"
    data-questions
  >
    <span
      v-for="q in asking.questions.value"
      :key="q.path"
      class="inline-flex items-baseline gap-2"
      :title="q.condition.ask?.help"
      :data-question="nameOf(q)"
    >
      <span class="quiet">{{ q.condition.ask?.label }}</span>
      <button
        class="border-b-2 border-dotted font-medium"
        :class="
          isAnswered(q.condition)
            ? 'border-mulberry text-mulberry'
            : q.condition.ask?.required
              ? 'border-honey text-honey'
              : 'border-edge text-mute'
        "
        @click="begin(q, $event)"
      >
        {{ said(q) }}
      </button>
      <button
        v-if="own(q)"
        class="quiet text-xs"
        :aria-label="`As proposed: ${q.condition.ask?.label}`"
        title="Back to what the view proposes"
        @click="asking.forget(nameOf(q))"
      >
        ↺
      </button>
    </span>
  </div>
  <Popover
    v-if="open && field"
    :anchor="open.anchor"
    :label="open.question.condition.ask?.label ?? 'Question'"
    tone="mulberry"
    :width="520"
    @keep="open = null"
    @revert="revert"
  >
    <h2 class="heading mb-2 text-base">{{ open.question.condition.ask?.label }}</h2>
    <p v-if="open.question.condition.ask?.help" class="quiet mb-2">{{ open.question.condition.ask.help }}</p>
    <ConditionForm
      answering
      :field="field"
      :condition="open.question.condition"
      :context="context"
      :fields="fields"
      :dates="phraseOf(open.question)?.step?.dates"
      @change="change"
    />
    <p class="mt-3">
      <button class="link" data-no-answer @click="change(null)">
        No answer{{ open.question.condition.ask?.required ? '' : ': filters nothing' }}
      </button>
    </p>
  </Popover>
</template>
