import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import type { Field } from '../api/client'
import { queries } from '../api/queries'
import { searchWords } from '../words'

/** The fields that views of a record set can use, with those that a view makes itself. */
export function useFields(set: Ref<string>, made?: Ref<readonly Field[] | undefined>) {
  const query = useQuery(computed(() => queries.fields(set.value)))
  // What the view makes itself stands before what its records have.
  const fields = computed(() => [...(made?.value ?? []), ...(query.data.value?.fields ?? [])])
  const byPath = computed(() => new Map(fields.value.map((f) => [f.path, f])))
  return { fields, byPath }
}

/**
 * The fields that match what was typed, the best first: label before path before
 * meaning, the start of a word before its middle, near before far.
 */
export function findFields(fields: readonly Field[], typed: string): Field[] {
  const words = searchWords(typed)
  const ranked: { field: Field; rank: number }[] = []
  for (const field of fields) {
    const ranks = words.map((w) => rankOf(field, w))
    if (ranks.includes(-1)) continue
    ranked.push({ field, rank: ranks.reduce((a, b) => a + b, field.way.length) })
  }
  return ranked.sort((a, b) => a.rank - b.rank).map((r) => r.field)
}

function rankOf(field: Field, word: string): number {
  const label = field.label.toLowerCase()
  if (label === word) return 0
  if (label.startsWith(word)) return 2
  if (label.includes(` ${word}`)) return 4
  if (label.includes(word)) return 8
  if (field.way.join(' ').toLowerCase().includes(word)) return 12
  if (field.meaning.toLowerCase().includes(word)) return 16
  if (field.samples.some((s) => s.toLowerCase().includes(word))) return 20
  return -1
}
