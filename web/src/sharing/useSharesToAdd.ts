import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { queries } from '../api/queries'
import { choices, keyOf, type Share } from './shares'

/** What a list of shares does not hold yet, and a way to add what is chosen in a select. */
export function useSharesToAdd(shares: Ref<readonly Share[]>) {
  const names = useQuery(queries.names())
  const open = computed(() =>
    choices(names.data.value?.groups ?? []).filter((c) => !shares.value.some((s) => keyOf(s) === keyOf(c))),
  )
  function add(event: Event) {
    const select = event.target as HTMLSelectElement
    const one = open.value.find((c) => keyOf(c) === select.value)
    if (one) shares.value = [...shares.value, one]
    select.value = ''
  }
  return { open, add }
}
