import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { queries } from '../api/queries'

type Match = Schemas['Match']

const places: Record<Match['part'], (text: string) => string> = {
  name: () => 'in its name',
  label: (text) => `its label is ${text}`,
  description: () => 'in what it is for',
  field: (text) => `has the field ${text}`,
  value: (text) => `has the value ${text}`,
  formula: (text) => `in the formula ${text}`,
  sentence: () => 'in what it says',
}

/** Why something was found, in words: for each place, the words of the question that were met there. */
export function reasons(matches: readonly Match[]): string {
  const met = new Map<string, string[]>()
  for (const m of matches) {
    const place = places[m.part](m.text.length > 60 ? `${m.text.slice(0, 59)}…` : m.text)
    met.set(place, [...(met.get(place) ?? []), `“${m.word}”`])
  }
  return [...met].map(([place, words]) => `${words.join(', ')} ${place}`).join(' · ')
}

/** The views and record sets nearest to a question, as one types it. */
export function useFinding(typed: Ref<string>) {
  const settled = refDebounced(
    computed(() => typed.value.trim()),
    120,
  )
  const found = useQuery(computed(() => queries.find(settled.value)))
  const asked = computed(() => typed.value.trim() !== '')
  return {
    asked,
    error: found.error,
    ready: computed(() => found.data.value !== undefined),
    views: computed(() =>
      (found.data.value?.found ?? []).flatMap((f) =>
        f.view ? [{ view: f.view, why: reasons(f.matches) }] : [],
      ),
    ),
    /** Why each record set was found, by its key. */
    sets: computed(
      () =>
        new Map(
          (found.data.value?.found ?? []).flatMap((f) =>
            f.set ? [[f.set, reasons(f.matches)] as const] : [],
          ),
        ),
    ),
  }
}
