import { useDocumentVisibility, useEventListener, useTimeoutFn } from '@vueuse/core'
import { watch, type Ref } from 'vue'

/** How long a result that needs no scrolling is looked at until it counts as seen. */
const glance = 3000

/**
 * Tells once that what is shown was seen: somebody scrolled in the ledger, or there was nothing to
 * scroll and it stood there for a while in a window that was looked at.
 */
export function useSeeing(waits: Ref<boolean>, seen: () => void) {
  const visible = useDocumentVisibility()
  let done = false
  function once() {
    if (done || !waits.value) return
    done = true
    seen()
  }
  const ledger = () => document.querySelector<HTMLElement>('[data-ledger-scroll]')
  useEventListener(
    document,
    'scroll',
    (event) => {
      if (event.target === ledger()) once()
    },
    { capture: true, passive: true },
  )
  const stood = useTimeoutFn(
    () => {
      const box = ledger()
      if (visible.value !== 'visible') return
      if (box && box.scrollHeight <= box.clientHeight + 1) once()
      else stood.start() // it may be drawn yet
    },
    glance,
    { immediate: false },
  )
  watch([waits, visible], ([is, now]) => (is && now === 'visible' ? stood.start() : stood.stop()), {
    immediate: true,
  })
  return { seen: once }
}
