import { useElementSize } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'
import { lineHeight } from './layout'

/** Browsers cannot make an element taller than some 30 million pixels; from here on scrolling is scaled. */
const tallest = 12_000_000
/** So many lines the box of lines goes on before it begins anew. */
const stretch = 1000
/** Lines drawn beyond the ones in sight, so that scrolling finds them there. */
const beyond = 5

/**
 * Which lines of a list of any length are in sight. All lines are of one height, so a
 * line's place is known without measuring.
 */
export function useRows(
  scroller: Readonly<Ref<HTMLElement | null>>,
  total: Ref<number>,
  covered: { top: number; bottom: number },
) {
  const { width, height } = useElementSize(scroller)
  const scrolled = ref(0)
  const scrolledAside = ref(0)
  const room = computed(() => Math.max(lineHeight, height.value - covered.top - covered.bottom))
  const real = computed(() => total.value * lineHeight)
  const tall = computed(() => Math.min(real.value, tallest))
  /** Real pixels for each one scrolled. */
  const scale = computed(() =>
    real.value > tallest ? (real.value - room.value) / (tallest - room.value) : 1,
  )
  const offset = computed(() => Math.min(scrolled.value * scale.value, Math.max(0, real.value - room.value)))
  const first = computed(() => Math.floor(offset.value / lineHeight))
  const range = computed(() => {
    const count = Math.min(total.value, Math.ceil(room.value / lineHeight) + 1 + 2 * beyond)
    const from = Math.max(0, Math.min(first.value - beyond, total.value - count))
    return { from, to: from + count }
  })
  /** The lines drawn, in their order. */
  const rows = computed(() =>
    Array.from({ length: range.value.to - range.value.from }, (_, i) => range.value.from + i),
  )
  /**
   * Lines stand in a box that moves with the scrolling where that is scaled; each keeps its place in
   * the box, which begins anew every so many lines, so that no number grows too large for the browser.
   */
  const begins = computed(() => Math.floor(range.value.from / stretch) * stretch)
  const boxTop = computed(() => Math.round(scrolled.value - offset.value) + begins.value * lineHeight)
  const at = (index: number) => (index - begins.value) * lineHeight

  // Asking for the place of the scroller makes the browser lay out at once, so it is
  // asked for only when it has moved.
  function onScroll() {
    scrolled.value = scroller.value?.scrollTop ?? 0
    scrolledAside.value = scroller.value?.scrollLeft ?? 0
  }
  /** A wheel moves by lines, also where scrolling is scaled. */
  function onWheel(event: WheelEvent) {
    if (scale.value === 1 || !scroller.value || event.ctrlKey || !event.deltaY) return
    event.preventDefault()
    scroller.value.scrollTop += event.deltaY / scale.value
  }
  function bringIntoSight(index: number) {
    const top = index * lineHeight
    let to = offset.value
    if (top < to) to = top
    else if (top + lineHeight > to + room.value) to = top + lineHeight - room.value
    if (to !== offset.value && scroller.value) scroller.value.scrollTop = to / scale.value
    onScroll()
  }
  function toTop() {
    if (scroller.value && scrolled.value) scroller.value.scrollTop = 0
    scrolled.value = 0
  }
  const pageLines = computed(() => Math.max(1, Math.floor(room.value / lineHeight) - 1))
  return {
    width,
    scrolledAside,
    tall,
    range,
    rows,
    first,
    at,
    boxTop,
    onScroll,
    onWheel,
    bringIntoSight,
    toTop,
    pageLines,
  }
}
