import { computed, ref, type Ref } from 'vue'

export interface Cell {
  row: number
  /** Place from left to right; see useColumns. */
  place: number
}

/** The cell that keys act on, and the block of cells from it to where it was begun. */
export function useCells(rows: Ref<number>, places: Ref<number>) {
  const active = ref<Cell>({ row: 0, place: 0 })
  const begun = ref<Cell | null>(null)
  const block = computed(() => {
    const a = active.value
    const b = begun.value ?? a
    return {
      top: Math.min(a.row, b.row),
      bottom: Math.max(a.row, b.row),
      left: Math.min(a.place, b.place),
      right: Math.max(a.place, b.place),
      several: !!begun.value && (a.row !== b.row || a.place !== b.place),
    }
  })
  const within = (row: number, place: number) => {
    const b = block.value
    return b.several && row >= b.top && row <= b.bottom && place >= b.left && place <= b.right
  }
  /** Moves to a cell; on spans a block from where it stood. */
  function go(row: number, place: number, on = false) {
    if (on) begun.value ??= { ...active.value }
    else begun.value = null
    active.value = {
      row: Math.max(0, Math.min(rows.value - 1, row)),
      place: Math.max(0, Math.min(places.value - 1, place)),
    }
  }
  function all() {
    begun.value = { row: 0, place: 0 }
    active.value = { row: Math.max(0, rows.value - 1), place: Math.max(0, places.value - 1) }
  }
  function reset() {
    active.value = { row: 0, place: Math.min(active.value.place, Math.max(0, places.value - 1)) }
    begun.value = null
  }
  return { active, block, within, go, all, reset }
}
