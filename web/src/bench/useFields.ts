import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import type { Field } from '../api/client'
import { queries } from '../api/queries'

/** The field that tells records apart which may share this one; its own twin is this one. */
function apart(f: Field): Field[] {
  return f.apart ? [{ ...f, ...f.apart, apart: { path: f.path, label: f.label } }] : []
}

/** The fields that views of a record set can use, with those that a view makes itself. */
export function useFields(set: Ref<string>, made?: Ref<readonly Field[] | undefined>) {
  const query = useQuery(computed(() => queries.fields(set.value)))
  // What the view makes itself stands before what its records have.
  const fields = computed(() => [...(made?.value ?? []), ...(query.data.value?.fields ?? [])])
  const byPath = computed(
    () => new Map(fields.value.flatMap((f) => [f, ...apart(f)]).map((f) => [f.path, f])),
  )
  return { fields, byPath }
}
