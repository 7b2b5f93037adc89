import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { until, useDebounceFn } from '@vueuse/core'
import { computed, shallowRef, watch, type Ref } from 'vue'
import { api, body, type Document } from '../../api/client'
import { useFlush } from './flush'

/** A document that makes a field, and the field's key. */
export interface Tried {
  view: Document
  key: string
}

/** The functions of formulas, with their words. */
export function useFunctions() {
  const { data } = useQuery({
    queryKey: ['functions'],
    queryFn: () => body(api.GET('/api/functions')),
    staleTime: Infinity,
  })
  return computed(() => (data.value?.chapters ?? []).flatMap((c) => c.functions))
}

/** Asks about what is being typed, a moment after it was. */
function useLook<T>(name: string, tried: Ref<Tried | null>, ask: (tried: Tried) => Promise<T>) {
  const slow = shallowRef(tried.value)
  watch(
    tried,
    useDebounceFn(() => {
      slow.value = tried.value
    }, 90),
  )
  const { data, error, isFetching, isPlaceholderData } = useQuery({
    queryKey: [name, slow],
    queryFn: () => ask(slow.value!),
    enabled: computed(() => slow.value !== null),
    placeholderData: keepPreviousData, // an editor looks at one field only
    retry: false,
  })
  /** What is shown belongs to what is typed. */
  const settled = computed(() => slow.value === tried.value && !isFetching.value && !isPlaceholderData.value)
  useFlush(async () => {
    slow.value = tried.value
    if (tried.value) await until(settled).toBe(true, { timeout: 5_000 })
  })
  return { look: data, error, settled }
}

/** A formula at work on real records, followed as it is typed. */
export function useFormulaLook(tried: Ref<Tried | null>) {
  return useLook('formula', tried, (t) => body(api.POST('/api/formula', { body: t })))
}

/** What lies in each band of a bucket, followed as it is edited. */
export function useBucketLook(tried: Ref<Tried | null>) {
  return useLook('bucket', tried, (t) => body(api.POST('/api/bucket', { body: t })))
}
