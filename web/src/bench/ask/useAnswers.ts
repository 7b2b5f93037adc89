import { useDebounceFn } from '@vueuse/core'
import { computed, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, unwrap, type Document } from '../../api/client'
import { usePersonal } from '../../session/usePersonal'
import { answered, isAnswered, questionsOf, type Answer, type Answers } from './answers'

/**
 * The answers given to what a view or a board asks. They come with the link, or are the last ones given to
 * it; each change goes into the address, so that a run can be sent.
 */
export function useGiven(place: Ref<string>, asks: () => boolean) {
  const route = useRoute()
  const router = useRouter()
  const last = usePersonal<Record<string, Answers>>('answers', {})
  const sent = computed<Answers | null>(() => {
    try {
      return typeof route.query.answers === 'string' ? (JSON.parse(route.query.answers) as Answers) : null
    } catch {
      return null // a link that was cut short asks anew
    }
  })
  const answers = computed<Answers>(() => sent.value ?? last.value[place.value] ?? {})

  // The server knows what one answered on another machine; this one, what was answered here.
  const key = computed(() => /^\/[vb]\/([^/]+)$/.exec(place.value)?.[1])
  const at = (key: string) => ({ params: { path: { key } } })
  watch(
    [key, asks],
    async ([key, asks]) => {
      if (!key || !asks) return
      const here = place.value
      const known = last.value[here]
      const got = await unwrap(api.GET('/api/views/{key}/answers', at(key))).catch(() => null)
      if (got && last.value[here] === known && Object.keys(got.answers).length)
        last.value = { ...last.value, [here]: got.answers as Answers }
    },
    { immediate: true },
  )
  const keep = useDebounceFn(
    (key: string, next: Answers) =>
      unwrap(api.PUT('/api/views/{key}/answers', { ...at(key), body: { answers: next } })).catch(
        () => undefined,
      ),
    600,
  )

  function put(next: Answers) {
    if (key.value) void keep(key.value, next)
    last.value = { ...last.value, [place.value]: next }
    void router.replace({
      path: route.path,
      query: { ...route.query, answers: Object.keys(next).length ? JSON.stringify(next) : undefined },
    })
  }
  return {
    answers,
    answer: (name: string, given: Answer) => put({ ...answers.value, [name]: given }),
    /** Back to what the author proposes. */
    forget: (...names: string[]) =>
      put(Object.fromEntries(Object.entries(answers.value).filter(([name]) => !names.includes(name)))),
  }
}

/** The answers of this run of a view, and the document as they make it. */
export function useAnswers(document: Ref<Document>, place: Ref<string>) {
  const given = useGiven(place, () => questionsOf(document.value).length > 0)
  const live = computed(() => answered(document.value, given.answers.value))
  const questions = computed(() => questionsOf(live.value))
  const waiting = computed(() =>
    questions.value.filter((q) => q.condition.ask?.required && !isAnswered(q.condition)),
  )
  return { ...given, live, questions, waiting }
}

export type Asking = ReturnType<typeof useAnswers>
