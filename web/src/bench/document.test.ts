import { describe, expect, it } from 'vitest'
import type { Condition, Document } from '../api/client'
import {
  addBeside,
  addCondition,
  conditionAt,
  moveColumn,
  removeColumn,
  setCondition,
  sortByColumn,
  toggleShow,
  toggleTotal,
  turnGroup,
} from './document'
import { sameDocument } from '../work/sameDocument'

/** Numbers that look random, the same on every run. */
function numbers(seed: number) {
  let x = seed
  return (below: number) => (x = (x * 48271) % 2147483647) % below
}
const test = (n: number): Condition => ({ field: `f${n}`, op: 'is', value: String(n) })

function leaves(c: Condition | undefined): string[] {
  if (!c) return []
  const parts = c.all ?? c.any ?? c.none
  return parts ? parts.flatMap(leaves) : [c.field ?? '']
}
function paths(c: Condition | undefined, at = 'filter'): string[] {
  if (!c) return []
  for (const kind of ['all', 'any', 'none'] as const)
    if (c[kind]) return c[kind].flatMap((part, i) => paths(part, `${at}.${kind}[${i}]`))
  return [at]
}
const empty: Document = { gavrik: 1, records: 'claims', columns: [] }

describe('conditions', () => {
  it('are added, found by their path, and taken out again, however they are nested', () => {
    for (let seed = 1; seed <= 200; seed++) {
      const next = numbers(seed)
      let doc = empty
      for (let i = 0; i < 12; i++) {
        const there = paths(doc.filter)
        const before = JSON.stringify(doc)
        const beside = there[next(there.length || 1)]
        const { doc: after, path } =
          beside && next(3)
            ? addBeside(doc, beside, next(2) ? 'any' : 'all', test(i))
            : addCondition(doc, test(i))
        expect(conditionAt(after, path)).toEqual(test(i))
        expect(JSON.stringify(doc)).toBe(before) // a step leaves the one it is given alone
        expect(leaves(after.filter).sort()).toEqual([...leaves(doc.filter), `f${i}`].sort())
        doc = after
      }
      while (doc.filter) {
        const there = paths(doc.filter)
        const path = there[next(there.length)]!
        const gone = conditionAt(doc, path)!.field!
        const rest = leaves(doc.filter).filter((f) => f !== gone)
        doc = setCondition(doc, path, null)
        expect(leaves(doc.filter)).toEqual(rest)
      }
    }
  })
  it('beside one of several stay in their list', () => {
    const { doc } = addBeside(addCondition(empty, test(1)).doc, 'filter.all[0]', 'all', test(2))
    expect(doc.filter).toEqual({ all: [test(1), test(2)] })
    expect(addBeside(doc, 'filter.all[0]', 'any', test(3)).doc.filter).toEqual({
      all: [{ any: [test(1), test(3)] }, test(2)],
    })
  })
})

describe('columns', () => {
  const doc: Document = { ...empty, columns: ['a', 'b', 'c', 'd'].map((field) => ({ field })) }
  it('move to where they are put, and back', () => {
    for (let from = 0; from < 4; from++)
      for (let to = 0; to < 4; to++) {
        const moved = moveColumn(doc, from, to)
        expect(moved.columns[to]).toEqual(doc.columns[from])
        expect(moveColumn(moved, to, from)).toEqual(doc)
      }
    expect(removeColumn(doc, 1).columns.map((c) => c.field)).toEqual(['a', 'c', 'd'])
  })
  it('lose a total with what is shown beside it', () => {
    const totalled = toggleShow(toggleTotal(doc, 0, 'sum'), 0, 'rank')
    expect(totalled.columns[0]?.totals).toEqual([{ fn: 'sum' }, { fn: 'sum', show: 'rank' }])
    expect(sameDocument(toggleTotal(totalled, 0, 'sum'), doc)).toBe(true)
  })
  it('sort records and, by their total, the groups; again turns it round', () => {
    const grouped: Document = { ...toggleTotal(doc, 1, 'sum'), groups: [{ field: 'g' }] }
    const once = sortByColumn(grouped, 1)
    expect(once.sort).toEqual([{ field: 'b', desc: true }])
    expect(once.groups?.[0]?.order).toEqual({ by: 'total', field: 'b', fn: 'sum', desc: true })
    expect(sortByColumn(once, 1).groups?.[0]?.order?.desc).toBe(false)
  })
})

it('turns a level of groups across and back, as the innermost there', () => {
  const doc: Document = { ...empty, groups: [{ field: 'a' }, { field: 'b' }], across: [{ field: 'c' }] }
  const turned = turnGroup(doc, 'groups', 0)
  expect([turned.groups, turned.across]).toEqual([[{ field: 'b' }], [{ field: 'c' }, { field: 'a' }]])
  expect(turnGroup(turned, 'across', 1).groups).toEqual([{ field: 'b' }, { field: 'a' }])
})
