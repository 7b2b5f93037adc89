import { inject, onScopeDispose, provide, type InjectionKey } from 'vue'

/** Brings what is typed to rest: what waits for a pause is tried at once, and its answer is there. */
export type Flush = () => Promise<void> | void

const key: InjectionKey<Set<Flush>> = Symbol('flush')

/** Gathers what the editors below have under way, so that nothing typed last is lost. */
export function provideFlush() {
  const flushes = new Set<Flush>()
  provide(key, flushes)
  return async () => {
    commitFocused()
    for (const flush of flushes) await flush()
  }
}

/** Says how an editor's own pause is brought to its end. */
export function useFlush(flush: Flush) {
  const flushes = inject(key, null)
  flushes?.add(flush)
  onScopeDispose(() => flushes?.delete(flush))
}

const typed = ['text', 'number', 'search', 'date', 'datetime-local', 'time', 'email']

/** A line that is typed in says what it holds only when it is left: now is when. */
function commitFocused() {
  const at = document.activeElement
  if (at instanceof HTMLTextAreaElement || (at instanceof HTMLInputElement && typed.includes(at.type)))
    at.dispatchEvent(new Event('change', { bubbles: true }))
}
