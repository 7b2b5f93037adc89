import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

/** Least and most a column can be made, in CSS pixels, as the view document has it. */
const least = 40
const most = 1200

/** A column's edge being dragged; done is told the new width once it is let go. */
export function useResize(done: (column: number, width: number) => void) {
  const dragged = ref<{ column: number; from: number; start: number; width: number } | null>(null)

  function grab(event: PointerEvent, column: number) {
    const cell = (event.currentTarget as HTMLElement).parentElement
    if (!cell) return
    event.preventDefault()
    const width = cell.getBoundingClientRect().width
    dragged.value = { column, from: event.clientX, start: width, width }
  }
  useEventListener(window, 'pointermove', (event: PointerEvent) => {
    const now = dragged.value
    if (now)
      dragged.value = {
        ...now,
        width: Math.round(Math.max(least, Math.min(most, now.start + event.clientX - now.from))),
      }
  })
  useEventListener(window, 'pointerup', () => {
    const now = dragged.value
    dragged.value = null
    if (now && now.width !== now.start) done(now.column, now.width)
  })
  return { dragged, grab }
}
