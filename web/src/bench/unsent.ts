import { useLocalStorage } from '@vueuse/core'
import type { Document } from '../api/client'

/** Work that the server has not taken yet: it survives a crash of either side. */
export interface Unsent {
  draft: string
  place: string
  title: string
  base: number
  state: string
  document: Document
  /** When it was made, in milliseconds since 1970. */
  at: number
}

const stored = useLocalStorage<Record<string, Unsent>>('gavrik.unsent', {})

export function stash(work: Unsent) {
  stored.value = { ...stored.value, [work.draft]: work }
}

export function unstash(draft: string) {
  const { [draft]: _, ...rest } = stored.value
  stored.value = rest
}

/** The newest work on a bench that was never sent. */
export function unsentAt(place: string): Unsent | undefined {
  return Object.values(stored.value).filter((w) => w.place === place).sort((a, b) => b.at - a.at)[0]
}
