import { computed, ref, watch, type Ref } from 'vue'
import type { Document } from '../api/client'
import type { Opening } from './useRun'

/** How far the groups of a view are open. */
export function useOpening(document: Ref<Document>) {
  const levels = computed(() => document.value.groups?.length ?? 0)
  // Groups appear closed down to the innermost, so that the summary is seen first.
  const closed = (): Opening => ({ depth: Math.max(0, levels.value - 1), toggled: [] })
  const now = ref<Opening>(closed())
  /** Groups of the innermost level that were opened one by one. */
  const innermost = ref<ReadonlySet<string>>(new Set())

  watch(levels, (count, before) => {
    if (count === before) return
    now.value = closed()
    innermost.value = new Set()
  })
  function toggle(group: string, level: number) {
    const { depth, toggled } = now.value
    const was = toggled.includes(group)
    now.value = { depth, toggled: was ? toggled.filter((g) => g !== group) : [...toggled, group] }
    const next = new Set(innermost.value)
    if (was || level < levels.value) next.delete(group)
    else next.add(group)
    innermost.value = next
  }
  function showDownTo(depth: number) {
    now.value = { depth: Math.max(-1, Math.min(levels.value, depth)), toggled: [] }
    innermost.value = new Set()
  }
  /** Lines of records are among those shown. */
  const records = computed(
    () => now.value.depth >= levels.value || innermost.value.size > 0 || levels.value === 0,
  )
  return { now, levels, records, toggle, showDownTo }
}
