import type { Content } from '../../api/client'
import { usePersonal } from '../../session/usePersonal'

/** Work that the server has not taken yet: it survives a crash of either side. */
export interface Unsent {
  draft: string
  place: string
  title: string
  base: number
  state: string
  document: Content
  /** When it was made, in milliseconds since 1970. */
  at: number
}

/** What of a person's work waits in this browser. */
export function useUnsent() {
  const stored = usePersonal<Record<string, Unsent>>('unsent', {})
  return {
    stash(work: Unsent) {
      stored.value = { ...stored.value, [work.draft]: work }
    },
    unstash(draft: string) {
      if (!(draft in stored.value)) return
      const { [draft]: _, ...rest } = stored.value
      stored.value = rest
    },
    /** The newest work on a bench. */
    newestAt: (place: string): Unsent | undefined =>
      Object.values(stored.value)
        .filter((w) => w.place === place)
        .sort((a, b) => b.at - a.at)[0],
    /** The work that is in a state. */
    inState: (state: string): Unsent | undefined =>
      Object.values(stored.value).find((w) => w.state === state),
  }
}
