import { computed, shallowRef } from 'vue'
import type { Content, Document } from '../api/client'
import { sameDocument } from './sameDocument'

/** A view or a board at one moment of work. Its key names it in links; as it was opened, it has none. */
export interface Step<D extends Content = Document> {
  key: string
  document: D
}

/** A key that nobody guesses and that no other state has. */
export function freshKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(20))
  return [...bytes].map((b) => (b % 36).toString(36)).join('')
}

/** A document with every step that led to it, and one that is only tried out. */
export function useHistory<D extends Content = Document>(start: Step<D>) {
  const steps = shallowRef<readonly Step<D>[]>([start])
  const at = shallowRef(0)
  const tried = shallowRef<D | null>(null)
  const now = computed<Step<D>>(() => steps.value[at.value] ?? start)

  /** Makes a step that undo takes back; what had been undone is forgotten. */
  function step(document: D, key = freshKey()) {
    tried.value = null
    if (sameDocument(document, now.value.document)) return
    steps.value = [...steps.value.slice(0, at.value + 1), { key, document }]
    at.value = steps.value.length - 1
  }
  /** Shows a document without making a step; a later step or revert ends it. */
  function tryOut(document: D) {
    tried.value = document
  }
  function revert() {
    tried.value = null
  }
  function goTo(index: number) {
    if (!steps.value[index]) return
    tried.value = null
    at.value = index
  }
  /** A document is saved now: the address of the newest step that shows it is the view's own. */
  function settle(document: D) {
    const index = steps.value.findLastIndex((s) => sameDocument(s.document, document))
    steps.value = steps.value.map((s, i) =>
      i === index ? { ...s, key: '' } : s.key === '' ? { ...s, key: freshKey() } : s,
    )
  }
  return {
    steps,
    at,
    now,
    /** What the screen shows. */
    shown: computed<D>(() => tried.value ?? now.value.document),
    kept: computed<D>(() => now.value.document),
    canUndo: computed(() => at.value > 0),
    canRedo: computed(() => at.value < steps.value.length - 1),
    step,
    tryOut,
    revert,
    goTo,
    settle,
    undo: () => goTo(at.value - 1),
    redo: () => goTo(at.value + 1),
  }
}

export type History<D extends Content = Document> = ReturnType<typeof useHistory<D>>
