<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Condition } from '../../api/client'
import Popover from '../../shell/Popover.vue'
import ConditionForm from '../editors/ConditionForm.vue'
import { isAnswered, type Answer, type Asked, type AskedForm } from './answers'

/** What a view or a board asks with this run's answers, each changeable in place. */
const props = defineProps<{
  label: string
  questions: readonly Asked[]
  /** What is needed to answer one. */
  formOf: (name: string) => AskedForm
}>()
const emit = defineEmits<{ answer: [name: string, given: Answer]; forget: [name: string] }>()

const open = ref<{ question: Asked; anchor: HTMLElement; before: Answer | undefined } | null>(null)
const form = computed(() => (open.value ? props.formOf(open.value.question.name) : null))

function begin(question: Asked, event: MouseEvent) {
  open.value = { question, anchor: event.currentTarget as HTMLElement, before: question.own }
}
function change(c: Condition | null) {
  if (!open.value) return
  const { value, to, values, period } = c ?? {}
  emit(
    'answer',
    open.value.question.name,
    JSON.parse(JSON.stringify({ value, to, values, period })) as Answer,
  )
}
function revert() {
  if (!open.value) return
  const { question, before } = open.value
  if (before) emit('answer', question.name, before)
  else emit('forget', question.name)
  open.value = null
}
</script>

<template>
  <div
    class="flex flex-wrap items-baseline gap-x-6 gap-y-1 border-b border-rule bg-sheet px-5 py-1.5 text-[13px] max-md:px-3"
    role="group"
    :aria-label="label"
    data-questions
  >
    <span
      v-for="q in questions"
      :key="q.name"
      class="inline-flex items-baseline gap-2"
      :title="q.condition.ask?.help"
      :data-question="q.name"
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
        {{ q.said }}
      </button>
      <button
        v-if="q.own"
        class="quiet text-xs"
        :aria-label="`As proposed: ${q.condition.ask?.label}`"
        title="Back to what is proposed"
        @click="emit('forget', q.name)"
      >
        ↺
      </button>
    </span>
  </div>
  <Popover
    v-if="open && form?.field"
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
      :field="form.field"
      :condition="open.question.condition"
      :context="form.context"
      :fields="form.fields"
      :dates="form.dates"
      @change="change"
    />
    <p class="mt-3">
      <button class="link" data-no-answer @click="change(null)">
        No answer{{ open.question.condition.ask?.required ? '' : ': filters nothing' }}
      </button>
    </p>
  </Popover>
</template>
