import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'

import type { Document, Field } from '../api/client'
import { queries } from '../api/queries'

/** The distinct values of a field under a view's filter, with their counts, and a search among them. */
export function useValues(field: Ref<Field>, view: Ref<Document>, limit: number) {
  const search = ref('')
  const slow = refDebounced(search, 120)
  const { data, error } = useQuery(
    computed(() =>
      queries.values(view.value, field.value.path, slow.value, limit, field.value.type !== 'picture'),
    ),
  )
  return { search, data, error }
}
