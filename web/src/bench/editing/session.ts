import { until } from '@vueuse/core'
import { computed, nextTick, ref, shallowRef } from 'vue'
import type { Document } from '../../api/client'
import { provideFlush } from '../editors/flush'
import type { History } from '../../work/useHistory'
import type { Run } from '../useRun'
import { filters, makesField, type Editing } from './editing'

/**
 * The one editing session of every popover: what is open is tried out, brought to rest, and kept or
 * taken back. One is open at a time, and a late answer of an older one cannot arrive.
 */
export function useSession(history: History, run: Run) {
  const editing = shallowRef<Editing | null>(null)
  /** Counts what was opened: each opening has an editor of its own. */
  const count = ref(0)
  const flush = provideFlush()
  /** What is typed cannot be kept yet; see FormulaEditor. */
  const unfinished = ref(false)
  /** What else has to come to rest before it is kept. */
  const awaited = shallowRef<Promise<unknown> | null>(null)
  /** What else is undone when the editor that is open is taken back. */
  let undo: (() => void) | undefined

  /** What the server says is wrong with the condition being edited. */
  const fault = computed(() => {
    const open = editing.value
    if (!filters(open) || run.state.value.kind !== 'failed') return ''
    const { problem } = run.state.value
    return problem.faults.find((f) => f.path.startsWith(open.place))?.message ?? problem.message
  })

  function begin(next: Editing, alsoUndo?: () => void) {
    unfinished.value = false
    awaited.value = null
    undo = alsoUndo
    count.value++
    editing.value = next
  }
  function close() {
    undo = undefined
    editing.value = null
  }
  /** Keeps what is open, with all that is under way in it; whether something else can be opened. */
  async function ready(): Promise<boolean> {
    if (editing.value) await keepAnswered()
    return !editing.value // else it could not be kept as it stands
  }
  async function open(next: Editing) {
    if (await ready()) begin(next)
  }

  /** Shows what an editor makes; one that is closed makes nothing any more. */
  function tryOut(doc: Document) {
    if (editing.value) history.tryOut(doc)
  }
  /** Makes a step of it, and closes. */
  function finish(doc: Document) {
    history.step(doc)
    close()
  }

  function keep() {
    const made = makesField(editing.value)
    // Nothing typed is nothing lost; what is not right yet stays to be mended.
    if (fault.value || (made && unfinished.value && history.shown.value !== history.kept.value)) return
    finish(history.shown.value)
  }
  /** Keeps once all that is under way has come to rest: a fault in it stays to be mended. */
  function keepAnswered(): Promise<void> {
    keeping.value ??= settleAndKeep().finally(() => (keeping.value = null))
    return keeping.value
  }
  const keeping = shallowRef<Promise<void> | null>(null)
  async function settleAndKeep() {
    const now = editing.value
    await flush()
    await awaited.value
    await nextTick()
    if (filters(now)) await until(() => run.state.value.kind !== 'running').toBe(true, { timeout: 5_000 })
    if (editing.value === now) keep()
  }
  function revert() {
    history.revert()
    undo?.()
    close()
  }

  return {
    editing,
    count,
    unfinished,
    awaited,
    fault,
    /** What is open is about to be kept. */
    settling: computed(() => keeping.value !== null),
    begin,
    close,
    ready,
    open,
    tryOut,
    finish,
    keep,
    keepAnswered,
    revert,
  }
}

export type Session = ReturnType<typeof useSession>
