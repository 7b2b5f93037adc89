import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import type { Document } from '../api/client'

/** Unsaved work, kept in the browser until it is saved or dropped. */
export interface Draft {
  /** Address of the bench it was made on: "/v/…" or "/new/…". */
  place: string
  title: string
  document: Document
  /** Version of the saved view it was made from; 0 for a new view. */
  base: number
  /** When it was last changed, in milliseconds since 1970. */
  at: number
}

const stored = useLocalStorage<Record<string, Draft>>('gavrik.drafts', {})

export function useDrafts() {
  return {
    drafts: computed(() => Object.values(stored.value).sort((a, b) => b.at - a.at)),
    find: (place: string): Draft | undefined => stored.value[place],
    keep: (draft: Draft) => {
      stored.value = { ...stored.value, [draft.place]: draft }
    },
    forget: (place: string) => {
      const { [place]: _, ...rest } = stored.value
      stored.value = rest
    },
  }
}
