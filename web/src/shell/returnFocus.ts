/** Marks by which a part that was drawn anew is known again. */
const marks = ['data-phrase', 'data-add', 'data-open', 'id'] as const

function sameAs(element: HTMLElement): HTMLElement | null {
  if (element.isConnected) return element
  for (const mark of marks) {
    const value = element.getAttribute(mark)
    const found = value && document.querySelector<HTMLElement>(`[${mark}="${CSS.escape(value)}"]`)
    if (found) return found
  }
  return null
}

/**
 * Remembers what has the focus, and gives it back: to the same element, to what stands for it now, or
 * to the main part of the screen. Whatever took the focus in the meantime keeps it.
 */
export function holdFocus(anchor?: HTMLElement): (from?: HTMLElement | null) => void {
  const active = document.activeElement
  const before = active instanceof HTMLElement && active !== document.body ? active : (anchor ?? null)
  function give(from?: HTMLElement | null) {
    const now = document.activeElement
    const free = !now || now === document.body || from?.contains(now)
    if (!free) return
    const to =
      (before && sameAs(before)) ??
      (anchor && sameAs(anchor)) ??
      document.querySelector<HTMLElement>('[data-ledger]')
    to?.focus({ preventScroll: true })
  }
  return (from) => {
    // The key that closed it must not press the button that gets the focus.
    if (keyIsDown()) addEventListener('keyup', () => setTimeout(give), { once: true })
    else give(from)
  }
}

/** Whether a key is held at this moment. */
let down = false
addEventListener('keydown', () => (down = true), true)
addEventListener('keyup', () => (down = false), true)
addEventListener('blur', () => (down = false))
export const keyIsDown = () => down
