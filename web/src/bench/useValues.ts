import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'
import { ofSameThing } from '../api/sameThing'
import { api, unwrap, type Document, type Field } from '../api/client'

/** The distinct values of a field under a view's filter, with their counts, and a search among them. */
export function useValues(field: Ref<Field>, view: Ref<Document>, limit: number) {
  const search = ref('')
  const slow = refDebounced(search, 120)
  const { data, error } = useQuery({
    queryKey: ['values', computed(() => field.value.path), view, slow, limit],
    queryFn: () =>
      unwrap(
        api.POST('/api/values', {
          body: { view: view.value, field: field.value.path, search: slow.value, limit },
        }),
      ),
    placeholderData: ofSameThing(() => field.value.path),
    enabled: computed(() => field.value.type !== 'picture'),
  })
  return { search, data, error }
}
