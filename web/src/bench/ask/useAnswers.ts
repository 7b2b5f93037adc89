import { useDebounceFn } from '@vueuse/core'
import { computed, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, unwrap, type Document } from '../../api/client'
import { usePersonal } from '../../session/usePersonal'
import { answered, isAnswered, questionsOf, type Answer, type Answers } from './answers'

/**
 * The answers of this run. They come with the link, or are the last ones given to this
 * view; each change goes into the address, so that a run can be sent.
 */
export function useAnswers(document: Ref<Document>, place: Ref<string>) {
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
  const live = computed(() => answered(document.value, answers.value))
  const questions = computed(() => questionsOf(live.value))
  const waiting = computed(() =>
    questions.value.filter((q) => q.condition.ask?.required && !isAnswered(q.condition)),
  )

  // The server knows what one answered on another machine; this one, what was answered here.
  const viewKey = computed(() => /^\/v\/([^/]+)$/.exec(place.value)?.[1])
  const at = (key: string) => ({ params: { path: { key } } })
  watch(
    viewKey,
    async (key) => {
      if (!key || !questionsOf(document.value).length) return
      const known = last.value[place.value]
      const got = await unwrap(api.GET('/api/views/{key}/answers', at(key))).catch(() => null)
      if (got && last.value[place.value] === known && Object.keys(got.answers).length)
        last.value = { ...last.value, [`/v/${key}`]: got.answers as Answers }
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
    if (viewKey.value) void keep(viewKey.value, next)
    last.value = { ...last.value, [place.value]: next }
    void router.replace({
      path: route.path,
      query: { ...route.query, answers: Object.keys(next).length ? JSON.stringify(next) : undefined },
    })
  }
  return {
    answers,
    live,
    questions,
    waiting,
    answer: (name: string, given: Answer) => put({ ...answers.value, [name]: given }),
    /** Back to what the author proposes. */
    forget: (name: string) => {
      const { [name]: _, ...rest } = answers.value
      put(rest)
    },
  }
}

export type Asking = ReturnType<typeof useAnswers>
