import { useLocalStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Document } from '../../api/client'
import { answered, isAnswered, questionsOf, type Answer, type Answers } from './answers'

const last = useLocalStorage<Record<string, Answers>>('gavrik.answers', {})

/**
 * The answers of this run. They come with the link, or are the last ones given to this
 * view; each change goes into the address, so that a run can be sent.
 */
export function useAnswers(document: Ref<Document>, place: Ref<string>) {
  const route = useRoute()
  const router = useRouter()
  const sent = computed<Answers | null>(() => {
    try {
      return typeof route.query.answers === 'string' ? (JSON.parse(route.query.answers) as Answers) : null
    } catch {
      return null // a link that was cut short asks anew
    }
  })
  const answers = computed<Answers>(() => sent.value ?? last.value[place.value] ?? {})
  const live = computed(() => answered(document.value, answers.value))
  const questions = computed(() => questionsOf(live.value))
  const waiting = computed(() => questions.value.filter((q) => q.condition.ask?.required && !isAnswered(q.condition)))

  function put(next: Answers) {
    last.value = { ...last.value, [place.value]: next }
    void router.replace({ path: route.path, query: { ...route.query, answers: Object.keys(next).length ? JSON.stringify(next) : undefined } })
  }
  return {
    answers, live, questions, waiting,
    answer: (name: string, given: Answer) => put({ ...answers.value, [name]: given }),
    /** Back to what the author proposes. */
    forget: (name: string) => {
      const { [name]: _, ...rest } = answers.value
      put(rest)
    },
  }
}

export type Asking = ReturnType<typeof useAnswers>
