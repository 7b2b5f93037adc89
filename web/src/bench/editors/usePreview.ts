import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { until, useDebounceFn } from '@vueuse/core'
import { computed, shallowRef, watch, type Ref } from 'vue'
import { api, unwrap, type Document } from '../../api/client'
import { queries } from '../../api/queries'
import { useFlush } from './flush'

/** A document that makes a field, and the field's key. */
export interface Tried {
  view: Document
  key: string
}

/** The functions of formulas, with their words. */
export function useFunctions() {
  const { data } = useQuery(queries.functions())
  return computed(() => (data.value?.chapters ?? []).flatMap((c) => c.functions))
}

/** What came back, with what it is an answer to. */
type Answer<T> = { to: string; preview?: T; error?: unknown }

/** Asks about what is being typed, a moment after it was. */
function usePreview<T>(name: string, tried: Ref<Tried | null>, ask: (tried: Tried) => Promise<T>) {
  const slow = shallowRef(tried.value)
  watch(
    tried,
    useDebounceFn(() => {
      slow.value = tried.value
    }, 90),
  )
  const { data } = useQuery<Answer<T>>({
    queryKey: [name, slow],
    queryFn: async () => {
      const of = slow.value!
      const to = JSON.stringify(of)
      try {
        return { to, preview: await ask(of) }
      } catch (error) {
        return { to, error }
      }
    },
    enabled: computed(() => slow.value !== null),
    placeholderData: keepPreviousData, // an editor looks at one field only
    structuralSharing: false,
  })
  /** What is shown belongs to what is typed. */
  const settled = computed(() => data.value?.to === JSON.stringify(tried.value))
  useFlush(async () => {
    slow.value = tried.value
    if (tried.value) await until(settled).toBe(true, { timeout: 5_000 })
  })
  return { preview: computed(() => data.value?.preview), error: computed(() => data.value?.error), settled }
}

/** A formula at work on real records, followed as it is typed. */
export function useFormulaPreview(tried: Ref<Tried | null>) {
  return usePreview('formula', tried, (t) => unwrap(api.POST('/api/formula', { body: t })))
}

/** What lies in each band of a bucket, followed as it is edited. */
export function useBucketPreview(tried: Ref<Tried | null>) {
  return usePreview('bucket', tried, (t) => unwrap(api.POST('/api/bucket', { body: t })))
}
