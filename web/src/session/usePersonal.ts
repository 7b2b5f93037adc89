import { useLocalStorage, type RemovableRef } from '@vueuse/core'
import { useMe } from './useMe'

/**
 * Something that the browser remembers for the person who is signed in. The next person at the
 * same browser has a memory of their own, and does not see it.
 */
export function usePersonal<T>(name: string, initial: T): RemovableRef<T> {
  const person = useMe().me.value?.id ?? 0 // nobody works without being signed in
  return useLocalStorage<T>(`gavrik.${person}.${name}`, initial)
}
