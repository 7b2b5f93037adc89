import { computed, onScopeDispose, shallowReactive } from 'vue'
import type { Findable } from './nearest'

/** Something that "find anything" offers beside commands. */
export interface Thing {
  /** What it is, in a word: "view", "field". */
  kind: string
  name: string
  about: string
  /** More that it is found by. */
  by?: Partial<Findable>
  choose: () => void
}

type Source = () => readonly Thing[]
const sources = shallowReactive(new Set<Source>())

/** Offers things for as long as the screen that calls it is there. */
export function useThings(source: Source) {
  sources.add(source)
  onScopeDispose(() => sources.delete(source))
}

export const thingsHere = computed(() => [...sources].flatMap((source) => source()))
