import { computed, shallowRef } from 'vue'
import type { Document } from '../api/client'
import { sameDocument } from './document'

/** A document with every step that led to it, and one that is only tried out. */
export function useHistory(start: Document) {
  const past = shallowRef<Document[]>([])
  const future = shallowRef<Document[]>([])
  const kept = shallowRef(start)
  const tried = shallowRef<Document | null>(null)

  /** Makes a step that undo takes back. */
  function step(doc: Document) {
    tried.value = null
    if (sameDocument(doc, kept.value)) return
    past.value = [...past.value, kept.value]
    future.value = []
    kept.value = doc
  }
  /** Shows a document without making a step; a later step or revert ends it. */
  function tryOut(doc: Document) {
    tried.value = doc
  }
  function revert() {
    tried.value = null
  }
  function undo() {
    const last = past.value.at(-1)
    if (!last) return
    past.value = past.value.slice(0, -1)
    future.value = [kept.value, ...future.value]
    kept.value = last
    tried.value = null
  }
  function redo() {
    const next = future.value[0]
    if (!next) return
    future.value = future.value.slice(1)
    past.value = [...past.value, kept.value]
    kept.value = next
    tried.value = null
  }
  return {
    /** What the screen shows. */
    shown: computed(() => tried.value ?? kept.value),
    kept: computed(() => kept.value),
    canUndo: computed(() => past.value.length > 0),
    canRedo: computed(() => future.value.length > 0),
    step, tryOut, revert, undo, redo,
  }
}

export type History = ReturnType<typeof useHistory>
