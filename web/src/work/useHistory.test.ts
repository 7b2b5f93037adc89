import { describe, expect, it } from 'vitest'
import type { Document } from '../api/client'
import { useHistory } from './useHistory'

const doc = (...fields: string[]): Document => ({
  gavrik: 1,
  records: 'claims',
  columns: fields.map((field) => ({ field })),
})
const begun = () => useHistory({ key: '', document: doc('a') })

describe('the history of a view', () => {
  it('goes back and forward, and forgets what was undone at the next step', () => {
    const h = begun()
    h.step(doc('a', 'b'))
    h.step(doc('a', 'b', 'c'))
    h.undo()
    h.undo()
    expect([h.kept.value, h.canUndo.value, h.canRedo.value]).toEqual([doc('a'), false, true])
    h.redo()
    expect(h.kept.value).toEqual(doc('a', 'b'))
    h.step(doc('z'))
    expect([h.canRedo.value, h.steps.value.length]).toEqual([false, 3])
  })
  it('makes no step of what says the same, in whatever order of keys and with empty lists', () => {
    const h = begun()
    h.step({ columns: [{ field: 'a', totals: [] }], records: 'claims', gavrik: 1, groups: [] })
    expect(h.steps.value).toHaveLength(1)
  })
  it('shows what is tried out without keeping it, until a step or a revert', () => {
    const h = begun()
    h.tryOut(doc('tried'))
    expect([h.shown.value, h.kept.value]).toEqual([doc('tried'), doc('a')])
    h.revert()
    expect(h.shown.value).toEqual(doc('a'))
    h.tryOut(doc('tried'))
    h.undo() // goes nowhere, and leaves what is tried out alone
    expect(h.shown.value).toEqual(doc('tried'))
    h.step(h.shown.value)
    expect([h.kept.value, h.canUndo.value]).toEqual([doc('tried'), true])
  })
  it('gives the address of the view to the newest step that shows what was saved, and to no other', () => {
    const h = begun()
    h.step(doc('a', 'b'), 'k1')
    h.step(doc('a'), 'k2') // as it was opened
    h.step(doc('later'), 'k3')
    h.settle(doc('a'))
    const keys = h.steps.value.map((s) => s.key)
    expect([keys[1], keys[2], keys[3]]).toEqual(['k1', '', 'k3'])
    expect(keys[0]).toMatch(/^[a-z0-9]{20}$/)
  })
})
