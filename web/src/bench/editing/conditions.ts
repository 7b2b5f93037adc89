import type { Ref } from 'vue'
import type { Condition, Field, LinkBy, Schemas } from '../../api/client'
import { newQuestion } from '../ask/answers'
import { addBeside, addCondition, conditionAt, setCondition } from '../document'
import { complete, startOf } from '../editors/condition'
import type { History } from '../../work/useHistory'
import { filters, type Beside, type Editing } from './editing'
import type { Session } from './session'

/** Editors of the filter: its conditions on fields, on linked records, and on what another view keeps. */
export function useConditions(
  { editing, begin, ready, finish }: Session,
  history: History,
  byPath: Ref<ReadonlyMap<string, Field>>,
  linkedBy: Ref<readonly LinkBy[]>,
) {
  /** Opens a condition; what was done for that is undone if it is taken back, or cannot open. */
  async function openCondition(path: string, anchor: HTMLElement, alsoUndo?: () => void) {
    const next = (await ready()) ? editorOf(path, anchor) : null
    if (next) begin(next, alsoUndo)
    else alsoUndo?.()
  }
  function editorOf(path: string, anchor: HTMLElement): Editing | null {
    const before = history.kept.value
    const condition = conditionAt(before, path)
    if (!condition) return null
    const at = { place: path, anchor, apply: (c: Condition | null) => setCondition(before, path, c) }
    const { linked, within } = condition
    if (linked) {
      const source = linkedBy.value.find((l) => l.records === linked.records && l.by === linked.by)
      return source ? { kind: 'linked', source, linked, ...at } : null
    }
    if (within) return { kind: 'within', within, ...at }
    const field = byPath.value.get(condition.field ?? '')
    return field ? { kind: 'condition', field, condition, context: at.apply(null), ...at } : null
  }

  /** How a new condition is put into the view, at the end or beside another. */
  function putting(beside: Beside | null, anchor: HTMLElement, before = history.kept.value) {
    const put = (c: Condition) =>
      beside ? addBeside(before, beside.path, beside.kind, c) : addCondition(before, c)
    const kept = history.kept.value
    const apply = (c: Condition | null) => (c ? put(c).doc : kept)
    return { before, at: { place: put({}).path, anchor, apply } }
  }

  /** A new condition that keeps what another view keeps. */
  function newWithin(within: Schemas['Within']) {
    const open = editing.value
    if (open?.kind !== 'find') return
    editing.value = { kind: 'within', within, ...putting(open.beside, open.anchor).at }
    change({ within })
  }
  /** A new condition on the records that link here. */
  function newLinked(source: LinkBy) {
    const open = editing.value
    if (open?.kind !== 'find') return
    editing.value = { kind: 'linked', source, linked: null, ...putting(open.beside, open.anchor).at }
  }
  /** Opens a new condition on a field, once what is open is kept. */
  async function openNew(field: Field, anchor: HTMLElement) {
    if (await ready()) newCondition(field, null, anchor)
  }
  /** A new condition; the view before it may make the field. */
  function newCondition(
    field: Field,
    beside: Beside | null,
    anchor: HTMLElement,
    asked = false,
    making = history.kept.value,
  ) {
    const { before, at } = putting(beside, anchor, making)
    const ask = asked ? newQuestion(before, field) : undefined
    const start = startOf(field)
    const condition = ask ? { ...start, ask } : null
    editing.value = { kind: 'condition', field, condition, context: before, ...at }
    const whole = complete(start, field)
    change(ask ? { ...(whole ?? { field: field.path, op: start.op }), ask } : whole)
  }

  function change(condition: Condition | null) {
    if (filters(editing.value)) history.tryOut(editing.value.apply(condition))
  }
  function removeCondition() {
    if (filters(editing.value)) finish(editing.value.apply(null))
  }
  /** Keeps the condition, and finds a field for another one beside it. */
  async function addAnother(kind: 'all' | 'any') {
    const open = editing.value
    if (!filters(open)) return
    const { place: path, anchor } = open
    if (!(await ready())) return
    const beside = conditionAt(history.kept.value, path) ? { path, kind } : null
    editing.value = { kind: 'find', purpose: 'filter', beside, anchor }
  }
  return { openCondition, newWithin, newLinked, openNew, newCondition, change, removeCondition, addAnother }
}
