/** Steps on a board. Each returns a new one and leaves the one it is given alone, so that undo is a list of them. */
import type { Board, BoardPart } from '../api/client'

export type Show = BoardPart['show']

/** Columns of the grid; as the server has them. */
export const columns = 12
/** How many parts a board may have; as the server has it. */
export const mostParts = 40
const least = 2
const mostRows = 30

export const newBoard: Board = { gavrik: 1, parts: [] }

/** What can be shown, in words. */
export const shows: { show: Show; label: string; about: string }[] = [
  {
    show: 'figure',
    label: 'a figure',
    about: 'One total of all its records, with its change where the view compares',
  },
  { show: 'chart', label: 'its chart', about: 'As the view draws it, or as fits its groups' },
  { show: 'groups', label: 'its groups', about: 'The first lines of the ledger, with their totals' },
  { show: 'table', label: 'its records', about: 'The first of them, in the view’s order' },
]

/** The size of a part whose author has not said one, in columns and rows; as the server has it. */
const usual: Record<Show, readonly [number, number]> = {
  figure: [3, 3],
  chart: [6, 8],
  groups: [6, 8],
  table: [12, 8],
  text: [6, 3],
}
export const sizeOf = (p: BoardPart) => ({
  wide: p.wide ?? usual[p.show][0],
  high: p.high ?? usual[p.show][1],
})

/** A name for a part that no other has. */
function freshPart(board: Board): string {
  const used = new Set(board.parts.map((p) => p.key))
  let n = board.parts.length + 1
  while (used.has(`part_${n}`)) n++
  return `part_${n}`
}

export function addPart(board: Board, part: Omit<BoardPart, 'key'>): Board {
  return { ...board, parts: [...board.parts, { ...part, key: freshPart(board) }] }
}

export function changePart(board: Board, key: string, change: Partial<BoardPart>): Board {
  return { ...board, parts: board.parts.map((p) => (p.key === key ? { ...p, ...change } : p)) }
}

/** Shows something else of a part's view, in the size that suits it; what was set of the other is gone. */
export function showOf(board: Board, key: string, show: Show): Board {
  const parts = board.parts.map((p) =>
    p.key === key && p.show !== show ? { key, show, view: p.view, heading: p.heading, page: p.page } : p,
  )
  return { ...board, parts }
}

export function removePart(board: Board, key: string): Board {
  return { ...board, parts: board.parts.filter((p) => p.key !== key) }
}

export function movePart(board: Board, from: number, to: number): Board {
  const parts = [...board.parts]
  const [part] = parts.splice(from, 1)
  if (part) parts.splice(to, 0, part)
  return { ...board, parts }
}

/** A part with another size, within what there can be. */
export function resizePart(board: Board, key: string, wide: number, high: number): Board {
  const between = (n: number, most: number) => Math.max(least, Math.min(most, Math.round(n)))
  return changePart(board, key, { wide: between(wide, columns), high: between(high, mostRows) })
}

/** What of a part decides its answer: not where it stands, how large it is or what it is headed. */
export function askedOf({ show, view, field, fn, count, depth, lines, text }: BoardPart): BoardPart {
  const asked = { key: 'part', show, view, field, fn, count, depth, lines, text }
  return JSON.parse(JSON.stringify(asked)) as BoardPart // without what is not there
}
