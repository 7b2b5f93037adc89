import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import type { Field } from '../api/client'
import { queries } from '../api/queries'

/** The fields that views of a record set can use, with those that a view makes itself. */
export function useFields(set: Ref<string>, made?: Ref<readonly Field[] | undefined>) {
  const query = useQuery(computed(() => queries.fields(set.value)))
  // What the view makes itself stands before what its records have.
  const fields = computed(() => [...(made?.value ?? []), ...(query.data.value?.fields ?? [])])
  const byPath = computed(() => new Map(fields.value.map((f) => [f.path, f])))
  return { fields, byPath }
}
