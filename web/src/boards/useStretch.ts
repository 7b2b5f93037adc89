import { onScopeDispose } from 'vue'
import { sizeOf } from './document'
import type { BoardPart } from '../api/client'

/** Makes parts of a board larger and smaller at their corner, by pointer or keys. */
export interface Stretch {
  /** What the corner of a part listens to. */
  corner: (part: BoardPart) => {
    onPointerdown: (event: PointerEvent) => void
    onKeydown: (event: KeyboardEvent) => void
  }
}

export function useStretch(
  change: (key: string, wide: number, high: number) => void,
  done: () => void,
): Stretch {
  let end: (() => void) | undefined

  function grab(event: PointerEvent, part: BoardPart) {
    const frame = (event.currentTarget as HTMLElement).closest<HTMLElement>('[data-part]')
    if (event.button > 0 || !frame) return
    event.preventDefault()
    const { wide, high } = sizeOf(part)
    const box = frame.getBoundingClientRect()
    const [cell, row] = [box.width / wide, box.height / high]
    let now = `${wide} ${high}`
    const over = (e: PointerEvent) => {
      const to = [
        Math.round(wide + (e.clientX - event.clientX) / cell),
        Math.round(high + (e.clientY - event.clientY) / row),
      ] as const
      if (now === to.join(' ')) return
      now = to.join(' ')
      change(part.key, ...to)
    }
    end?.()
    end = () => {
      removeEventListener('pointermove', over)
      removeEventListener('pointerup', drop)
      removeEventListener('pointercancel', drop)
      end = undefined
    }
    const drop = () => {
      end?.()
      done()
    }
    addEventListener('pointermove', over)
    addEventListener('pointerup', drop)
    addEventListener('pointercancel', drop)
  }
  function byKey(event: KeyboardEvent, part: BoardPart) {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key]
    if (!by || event.ctrlKey || event.metaKey) return
    event.preventDefault()
    const { wide, high } = sizeOf(part)
    change(part.key, wide + by[0]!, high + by[1]!)
    done()
  }
  onScopeDispose(() => end?.())
  return {
    corner: (part) => ({
      onPointerdown: (event) => grab(event, part),
      onKeydown: (event) => byKey(event, part),
    }),
  }
}
