import { describe, expect, it } from 'vitest'
import { answersOf } from './answers'
import {
  addPart,
  askedOf,
  changePart,
  movePart,
  newBoard,
  removePart,
  resizePart,
  showOf,
  sizeOf,
} from './document'

const two = addPart(addPart(newBoard, { show: 'chart', view: 'a' }), { show: 'figure', view: 'b', wide: 4 })

describe('steps on a board', () => {
  it('name parts apart whatever was taken off, and leave the board they are given alone', () => {
    let board = two
    for (let i = 0; i < 30; i++) {
      board = addPart(i % 3 ? board : removePart(board, board.parts[i % board.parts.length]!.key), {
        show: 'table',
        view: 'c',
      })
      expect(new Set(board.parts.map((p) => p.key)).size).toBe(board.parts.length)
    }
    expect(two.parts.map((p) => p.view)).toEqual(['a', 'b'])
    expect(movePart(two, 0, 1).parts.map((p) => p.view)).toEqual(['b', 'a'])
  })

  it('keep a part within the sheet, however it is pulled', () => {
    const key = two.parts[1]!.key
    expect(sizeOf(two.parts[1]!)).toEqual({ wide: 4, high: 3 })
    for (const [wide, high, then] of [
      [40, 100, { wide: 12, high: 30 }],
      [-3, 0, { wide: 2, high: 2 }],
      [5.4, 6.6, { wide: 5, high: 7 }],
    ] as const)
      expect(sizeOf(resizePart(two, key, wide, high).parts[1]!)).toEqual(then)
  })

  it('show something else of the same view in the size that suits it', () => {
    const board = changePart(two, 'part_2', { heading: 'Owed', field: 'x', page: true })
    expect(showOf(board, 'part_2', 'groups').parts[1]).toEqual({
      key: 'part_2',
      show: 'groups',
      view: 'b',
      heading: 'Owed',
      page: true,
    })
  })

  it('ask nothing anew for another place, size or heading', () => {
    const asked = askedOf(two.parts[0]!)
    for (const change of [{ wide: 3 }, { high: 9 }, { heading: 'x' }, { page: true }])
      expect(askedOf({ ...two.parts[0]!, ...change })).toEqual(asked)
    expect(askedOf({ ...two.parts[0]!, count: true })).not.toEqual(asked)
  })
})

it('an answer goes to every view that asks, by its own name for the question', () => {
  const questions = [
    {
      name: 'route',
      of: [
        { view: 'a', name: 'route' },
        { view: 'b', name: 'sailing_route' },
      ],
    },
    { name: 'since', of: [{ view: 'b', name: 'since' }] },
  ]
  const given = { route: { values: ['Oxley'] }, gone: { value: '1' } }
  expect(answersOf(questions, given, 'a')).toEqual({ route: { values: ['Oxley'] } })
  expect(answersOf(questions, given, 'b')).toEqual({ sailing_route: { values: ['Oxley'] } })
  expect(answersOf(questions, given, 'c')).toEqual({})
})
