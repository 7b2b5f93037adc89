import { useLocalStorage, type RemovableRef } from '@vueuse/core'
import { useMe } from './useMe'

/**
 * Something that the browser remembers for the person who is signed in. The next person at the
 * same browser has a memory of their own, and does not see it.
 */
export function usePersonal<T>(name: string, initial: T): RemovableRef<T> {
  return useLocalStorage<T>(personalKey(name), initial)
}

/** What a person's memory of something is called. Nobody works without being signed in. */
export function personalKey(name: string): string {
  return `gavrik.${useMe().me.value?.id ?? 0}.${name}`
}
