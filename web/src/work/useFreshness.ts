import { useDocumentVisibility, useEventSource } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { usePersonal } from '../session/usePersonal'

type Arrival = Schemas['Arrival']

/** Calls show when newer records are there, while the page is looked at. */
export function useArrivals(show: () => void) {
  const visible = useDocumentVisibility()
  const address = computed(() => (visible.value === 'visible' ? '/api/records/arrivals' : undefined))
  const source = useEventSource(address, ['arrival'], { autoReconnect: { delay: 5_000 } })
  let loaded = ''
  watch(source.data, (text) => {
    if (!text) return
    const told = JSON.parse(text) as Arrival
    if (loaded && loaded !== told.loaded) show()
    loaded = told.loaded
  })
}

/** How fresh what is shown is: the moment of the records, and whether they say something else by now. */
export interface Freshness {
  /** The moment that the answer is of, as people read it; empty while it is not told. */
  asOf: Ref<string>
  /** Records have changed that the answer was worked out of. */
  newer: Ref<boolean>
  /** Newer records are shown as they come. */
  keepsUp: Ref<boolean>
  show: () => void
  /** Begins to keep up, or ends it. */
  toggle: () => void
}

/**
 * Listens for newer records while the page is looked at, and says whether the answer of a name still holds.
 * A page in the background does not listen: browsers allow few connections at a time.
 */
export function useFreshness(result: Ref<string>, settled: Ref<boolean>, show: () => void): Freshness {
  const keepsUp = usePersonal('keeps up', false)
  const visible = useDocumentVisibility()
  const told = ref<{ of: string; arrival: Arrival }>()
  const address = computed(() =>
    result.value && visible.value === 'visible'
      ? `/api/records/arrivals?result=${encodeURIComponent(result.value)}`
      : undefined,
  )
  const source = useEventSource(address, ['arrival'], { autoReconnect: { delay: 5_000 } })
  watch(source.data, (text) => {
    if (text) told.value = { of: result.value, arrival: JSON.parse(text) as Arrival }
  })
  const mine = computed(() => (told.value?.of === result.value ? told.value.arrival : undefined))
  const newer = computed(() => mine.value?.holds === false)
  watch([newer, keepsUp, settled], () => {
    if (newer.value && keepsUp.value && settled.value) show()
  })
  return {
    asOf: computed(() => (mine.value?.holds ? mine.value.asOfText : '')),
    newer,
    keepsUp,
    show,
    toggle: () => (keepsUp.value = !keepsUp.value),
  }
}
