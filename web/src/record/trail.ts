import { useQuery } from '@tanstack/vue-query'
import { computed, shallowRef, type Ref } from 'vue'
import type { Document } from '../api/client'
import { queries } from '../api/queries'

/** The view that a record was opened from, as it was open, and the record's line in it. */
interface Trail {
  set: string
  from: string
  document: Document
  depth: number
  toggled: string[]
  row: number
}
const place = 'gavrik trail'
/** Lines looked through on either side: groups may stand between two records. */
const reach = 100

export function keepTrail(trail: Trail) {
  sessionStorage.setItem(place, JSON.stringify(trail))
}

function trailOf(set: string): Trail | null {
  try {
    const kept = JSON.parse(sessionStorage.getItem(place) ?? 'null') as Trail | null
    return kept?.set === set && kept.document ? kept : null
  } catch {
    return null
  }
}

/** The records before and after one, in the order of the view that it was opened from. */
export function useTrail(set: Ref<string>, key: Ref<string>) {
  const trail = shallowRef(trailOf(set.value))
  const first = computed(() => Math.max(0, (trail.value?.row ?? 0) - reach))
  const { data } = useQuery(
    computed(() => ({
      ...queries.run(
        'trail',
        {
          view: trail.value?.document ?? { gavrik: 1, records: '', columns: [] },
          depth: trail.value?.depth ?? 0,
          toggled: trail.value?.toggled ?? [],
          offset: first.value,
          limit: 2 * reach + 1,
        },
        trail.value !== null,
      ),
      staleTime: 60_000,
    })),
  )
  const at = computed(() => data.value?.lines.findIndex((l) => l.record === key.value) ?? -1)
  const before = computed(() =>
    at.value < 0
      ? undefined
      : data.value?.lines
          .slice(0, at.value)
          .reverse()
          .find((l) => l.record)?.record,
  )
  const after = computed(() =>
    at.value < 0 ? undefined : data.value?.lines.slice(at.value + 1).find((l) => l.record)?.record,
  )
  /** Notes that another record of the trail is looked at now. */
  function move(to: string) {
    const row = data.value?.lines.findIndex((l) => l.record === to) ?? -1
    if (trail.value && row >= 0) keepTrail({ ...trail.value, row: first.value + row })
  }
  return { trail, at, before, after, move, kept: computed(() => data.value?.tally.kept ?? 0) }
}
