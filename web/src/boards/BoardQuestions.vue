<script setup lang="ts">
import { useQueries } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import type { Field } from '../api/client'
import { queries } from '../api/queries'
import { asked, questionsOf, withAnswer, type AskedForm } from '../bench/ask/answers'
import QuestionStrip from '../bench/ask/QuestionStrip.vue'
import { setCondition } from '../bench/document'
import { useBoard } from './board'

/** What the views of a board ask, once for all of them that ask the same. */
const board = useBoard()
const { questions, views, given, look } = board
watch(questions, (now) => (board.asks.value = now.length > 0), { immediate: true })

const sets = computed(() => [...new Set(questions.value.map((q) => views.value.get(q.view)?.set ?? ''))])
const fields = useQueries({
  queries: computed(() => sets.value.map((set) => queries.fields(set))),
})
const fieldsOf = (view: string): readonly Field[] =>
  fields.value[sets.value.indexOf(views.value.get(view)?.set ?? '')]?.data?.fields ?? []

const list = computed(() =>
  questions.value.map((q) => {
    const own = given.answers.value[q.name]
    const ask = q.condition.ask && { ...q.condition.ask, name: q.name, required: q.required || undefined }
    const one = asked({ ...withAnswer(q.condition, own), ask }, given.answers.value)
    return q.differs && !own ? { ...one, said: 'as each view proposes' } : one
  }),
)
/** The context is the first view that asks, without the question. */
function formOf(name: string): AskedForm {
  const q = questions.value.find((x) => x.name === name)
  const view = q && views.value.get(q.view)?.view
  const own = q?.of.find((o) => o.view === q.view)?.name
  const at = view && questionsOf(view).find((x) => x.condition.ask?.name === own)
  const known = q ? fieldsOf(q.view) : []
  return {
    field: known.find((f) => f.path === q?.condition.field),
    fields: known,
    context: view && at ? setCondition(view, at.path, null) : { gavrik: 1, records: '', columns: [] },
  }
}
function dropUnasked() {
  given.forget(...(look.value?.unasked ?? []))
}
</script>

<template>
  <QuestionStrip
    v-if="list.length"
    class="print:border-0"
    label="Questions of this board"
    :questions="list"
    :form-of="formOf"
    @answer="given.answer"
    @forget="given.forget"
  />
  <p
    v-if="look?.unasked.length"
    class="border-b border-rule px-5 py-1.5 text-[13px] text-honey max-md:px-3"
    role="status"
    data-unasked
  >
    None of these views asks for “{{ look.unasked.join('”, “') }}”; the answer changes nothing.
    <button class="link" @click="dropUnasked">Leave it out</button>
  </p>
</template>
