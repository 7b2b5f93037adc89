import { nextTick, onScopeDispose, ref, type Ref } from 'vue'

/** Lines of a list, or columns side by side, put into another order by touch, mouse, pen or keys. */
export interface Reorder {
  /** Place of what is being dragged; -1 while there is none. */
  dragged: Readonly<Ref<number>>
  /** Begins a drag, where the keys are needed for something else. */
  grab: (event: PointerEvent, index: number) => void
  /** What a grip at a place listens to. */
  grip: (index: number) => {
    onPointerdown: (event: PointerEvent) => void
    onKeydown: (event: KeyboardEvent) => void
    'data-grip': number
  }
}

/**
 * Makes a list reorderable by its grips. Each thing in it carries data-place, its grip data-grip. It moves
 * as the pointer passes over another; arrows, Home and End move it by keys, and the focus goes with it.
 */
export function useReorder(
  list: Readonly<Ref<HTMLElement | null>>,
  count: () => number,
  move: (from: number, to: number) => void,
  done: () => void = () => undefined,
): Reorder {
  const dragged = ref(-1)
  let moved = false

  function over(event: PointerEvent) {
    const at = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-place]')
    if (!at || !list.value?.contains(at)) return
    const to = Number(at.dataset.place)
    if (to === dragged.value) return
    move(dragged.value, to)
    dragged.value = to
    moved = true
  }
  function drop() {
    removeEventListener('pointermove', over)
    removeEventListener('pointerup', drop)
    removeEventListener('pointercancel', drop)
    if (moved) done()
    moved = false
    dragged.value = -1
  }
  function grab(event: PointerEvent, index: number) {
    if (event.button > 0) return
    ;(event.currentTarget as HTMLElement).releasePointerCapture?.(event.pointerId)
    dragged.value = index
    addEventListener('pointermove', over)
    addEventListener('pointerup', drop)
    addEventListener('pointercancel', drop)
  }
  async function byKey(event: KeyboardEvent, index: number) {
    const last = count() - 1
    const to = {
      ArrowUp: index - 1,
      ArrowLeft: index - 1,
      ArrowDown: index + 1,
      ArrowRight: index + 1,
      Home: 0,
      End: last,
    }[event.key]
    if (to === undefined || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    if (to < 0 || to > last || to === index) return
    move(index, to)
    done()
    await nextTick()
    list.value?.querySelector<HTMLElement>(`[data-grip="${to}"]`)?.focus()
  }
  onScopeDispose(drop)
  return {
    dragged,
    grab,
    grip: (index) => ({
      onPointerdown: (event) => grab(event, index),
      onKeydown: (event) => void byKey(event, index),
      'data-grip': index,
    }),
  }
}
