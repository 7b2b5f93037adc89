import { until } from '@vueuse/core'
import { computed, nextTick, ref, shallowRef, type Ref } from 'vue'
import type { Bucket, Calculated, Condition, Document, Field, LinkBy, Linked, Schemas } from '../api/client'
import { newQuestion } from './ask/answers'
import { complete, startOf } from './editors/condition'
import { provideFlush } from './editors/flush'
import type { Unit } from './foundFields'
import { unitsOf, type UnitGroups } from './units'
import {
  addBeside,
  addCondition,
  addGroup,
  conditionAt,
  removeGroup,
  setGroup,
  setCondition,
  turnGroup,
  type Axis,
} from './document'
import {
  addDerivedColumn,
  dropDerived,
  freshKey,
  freshLabel,
  nameIn,
  putBucket,
  putCalculated,
} from './derivedFields'
import type { History } from './useHistory'
import type { Run } from './useRun'

type Beside = { path: string; kind: 'all' | 'any' }

/** What can be added to a view from the words behind its brief. */
export type AddWhat = 'filter' | 'ask' | 'group' | 'columns' | 'calculate' | 'bucket' | 'sort' | 'compare'

/** The small editor that is open, and what it needs. */
export type Editing =
  // a field is being chosen for a new condition or a new level of groups
  | { kind: 'find'; purpose: 'filter' | 'group' | 'ask'; beside: Beside | null; anchor: HTMLElement }
  // place is the condition's path in the document tried out
  | {
      kind: 'condition'
      field: Field
      condition: Condition | null
      context: Document
      place: string
      apply: (c: Condition | null) => Document
      anchor: HTMLElement
    }
  | {
      kind: 'linked'
      source: LinkBy
      linked: Linked | null
      place: string
      apply: (c: Condition | null) => Document
      anchor: HTMLElement
    }
  | {
      kind: 'within'
      within: Schemas['Within']
      place: string
      apply: (c: Condition | null) => Document
      anchor: HTMLElement
    }
  | { kind: 'group'; axis: Axis; index: number; anchor: HTMLElement }
  // made is what is being changed, none for a new one; before is the view without the change
  | { kind: 'calculate'; made: Calculated | null; before: Document; anchor: HTMLElement }
  | { kind: 'bucket'; made: Bucket | null; of?: Field; before: Document; anchor: HTMLElement }
  | { kind: 'columns' | 'sort' | 'compare'; anchor: HTMLElement }

type Filtering = Extract<Editing, { kind: 'condition' | 'linked' | 'within' }>

/** Whether what is open edits a part of the filter. */
export function filters(open: Editing | null): open is Filtering {
  return open?.kind === 'condition' || open?.kind === 'linked' || open?.kind === 'within'
}

/** Opens, keeps and reverts the editors that hang from the brief. One is open at a time. */
export function useEditing(
  history: History,
  run: Run,
  byPath: Ref<ReadonlyMap<string, Field>>,
  linkedBy: Ref<readonly LinkBy[]>,
) {
  const editing = shallowRef<Editing | null>(null)
  /** Counts what was opened: each opening has an editor of its own. */
  const session = ref(0)
  const flush = provideFlush()

  /** What the server says is wrong with the condition being edited. */
  const fault = computed(() => {
    const open = editing.value
    if (!filters(open) || run.state.value.kind !== 'failed') return ''
    const { problem } = run.state.value
    return problem.faults.find((f) => f.path.startsWith(open.place))?.message ?? problem.message
  })

  /** What is typed cannot be kept yet; see FormulaEditor. */
  const unfinished = ref(false)

  /** Keeps what is open, with all that is under way in it; whether something else can be opened. */
  async function ready(): Promise<boolean> {
    if (editing.value) await keepAnswered()
    return !editing.value // else it could not be kept as it stands
  }
  /** What else is undone when the editor that is open is taken back. */
  let undo: (() => void) | undefined
  function begin(next: Editing, alsoUndo?: () => void) {
    unfinished.value = false
    undo = alsoUndo
    session.value++
    editing.value = next
    proposing = null
    if (next.kind === 'group') {
      const path = history.kept.value[next.axis]?.[next.index]?.field
      const field = byPath.value.get(path ?? '')
      if (field) void propose(next, field, false)
    }
  }
  function close() {
    undo = undefined
    editing.value = null
  }
  async function open(next: Editing) {
    if (await ready()) begin(next)
  }

  /** Shows what an editor makes; one that is closed makes nothing any more. */
  function tryOut(doc: Document) {
    if (editing.value) history.tryOut(doc)
  }

  /** Opens the editor of a calculated field or bucket of the view, or of a new one. */
  async function openDerived(
    kind: 'calculate' | 'bucket',
    index: number | null,
    anchor: HTMLElement,
    of?: Field,
  ) {
    if (!(await ready())) return
    const before = history.kept.value
    const at = index ?? -1
    if (kind === 'calculate') begin({ kind, made: before.calculated?.[at] ?? null, before, anchor })
    else begin({ kind, made: before.buckets?.[at] ?? null, of, before, anchor })
  }

  /** Tries a calculated field out; none while what is typed is not right. */
  function tryCalculated(made: Calculated | null, fn?: string) {
    const at = editing.value
    if (at?.kind !== 'calculate') return
    unfinished.value = made === null
    if (!made) return
    const doc = putCalculated(at.before, made)
    history.tryOut(at.made ? doc : addDerivedColumn(doc, made.key, fn))
  }

  function tryBucket(made: Bucket | null) {
    const at = editing.value
    if (at?.kind !== 'bucket') return
    unfinished.value = made === null
    if (!made) return
    const doc = putBucket(at.before, made)
    history.tryOut(at.made ? doc : { ...doc, groups: [...(doc.groups ?? []), { field: made.key }] })
  }

  function removeDerived() {
    const at = editing.value
    if ((at?.kind !== 'calculate' && at?.kind !== 'bucket') || !at.made) return
    history.step(dropDerived(at.before, at.made.key))
    close()
  }

  /** Buckets of a date go by its age: that is calculated first. */
  function bucketAge(field: Field) {
    const at = editing.value
    if (at?.kind !== 'bucket') return
    const label = freshLabel(at.before, `Age of ${field.label.toLowerCase()} in days`)
    const age: Calculated = {
      key: freshKey(at.before, label, () => false),
      label,
      formula: `DAYS(TODAY(); ${nameIn([...byPath.value.values()], field)})`,
    }
    const of: Field = { ...field, path: age.key, label, type: 'whole', way: [], kind: 'calculated' }
    editing.value = {
      kind: 'bucket',
      made: null,
      of,
      before: putCalculated(at.before, age),
      anchor: at.anchor,
    }
  }

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
  function putting(beside: Beside | null) {
    const before = history.kept.value
    const put = (c: Condition) =>
      beside ? addBeside(before, beside.path, beside.kind, c) : addCondition(before, c)
    return { before, put, path: put({}).path }
  }

  /** A new condition that keeps what another view keeps. */
  function newWithin(within: Schemas['Within']) {
    const open = editing.value
    if (open?.kind !== 'find') return
    const { before, put, path } = putting(open.beside)
    editing.value = {
      kind: 'within',
      within,
      place: path,
      anchor: open.anchor,
      apply: (c) => (c ? put(c).doc : before),
    }
    change({ within })
  }

  /** A new condition on the records that link here. */
  function newLinked(source: LinkBy) {
    const open = editing.value
    if (open?.kind !== 'find') return
    const { before, put, path } = putting(open.beside)
    editing.value = {
      kind: 'linked',
      source,
      linked: null,
      place: path,
      anchor: open.anchor,
      apply: (c) => (c ? put(c).doc : before),
    }
  }

  /** Opens a new condition on a field, once what is open is kept. */
  async function openNew(field: Field, anchor: HTMLElement) {
    if (await ready()) newCondition(field, null, anchor)
  }
  function newCondition(field: Field, beside: Beside | null, anchor: HTMLElement, asked = false) {
    const { before, put, path } = putting(beside)
    const apply = (c: Condition | null) => (c ? put(c).doc : before)
    const ask = asked ? newQuestion(before, field) : undefined
    const start = startOf(field)
    editing.value = {
      kind: 'condition',
      field,
      condition: ask ? { ...start, ask } : null,
      context: before,
      place: path,
      anchor,
      apply,
    }
    const condition = complete(start, field)
    change(ask ? { ...(condition ?? { field: field.path, op: start.op }), ask } : condition)
  }

  function change(condition: Condition | null) {
    if (filters(editing.value)) history.tryOut(editing.value.apply(condition))
  }

  function chosen(field: Field, unit?: Unit) {
    const open = editing.value
    if (open?.kind !== 'find') return
    if (open.purpose !== 'group') {
      newCondition(field, open.beside, open.anchor, open.purpose === 'ask')
      return
    }
    const doc = addGroup(history.kept.value, field, unit)
    history.tryOut(doc)
    const group: Editing = {
      kind: 'group',
      axis: 'groups',
      index: (doc.groups?.length ?? 1) - 1,
      anchor: open.anchor,
    }
    editing.value = group
    proposing = propose(group, field, unit === undefined)
  }

  /** How many groups each unit of time would make of what is grouped by. */
  const units = shallowRef<UnitGroups | null>(null)
  let proposing: Promise<void> | null = null
  /** Counts the groups of each unit and, if none was chosen by name or by hand, takes the one that reads best. */
  async function propose(group: Editing & { kind: 'group' }, field: Field, take: boolean) {
    units.value = null
    const before = history.shown.value
    const got = await unitsOf(history.kept.value, field)
    if (editing.value !== group || !got) return
    units.value = got
    if (take && history.shown.value === before)
      history.tryOut(setGroup(before, group.axis, group.index, { unit: got.proposed }))
  }
  async function addAnother(kind: 'all' | 'any') {
    const open = editing.value
    if (!filters(open)) return
    const { place: path, anchor } = open
    if (!(await ready())) return
    editing.value = {
      kind: 'find',
      purpose: 'filter',
      beside: conditionAt(history.kept.value, path) ? { path, kind } : null,
      anchor,
    }
  }

  function removeCondition() {
    if (!filters(editing.value)) return
    history.step(editing.value.apply(null))
    close()
  }

  function dropGroup() {
    if (editing.value?.kind !== 'group') return
    history.step(removeGroup(history.shown.value, editing.value.axis, editing.value.index))
    close()
  }

  /** Turns the level of groups being edited from down the side to across the top, or back. */
  function turn() {
    if (editing.value?.kind !== 'group') return
    history.step(turnGroup(history.shown.value, editing.value.axis, editing.value.index))
    close()
  }

  function groupMoved(index: number) {
    if (editing.value?.kind === 'group') editing.value = { ...editing.value, index }
  }

  function keep() {
    const made = editing.value?.kind === 'calculate' || editing.value?.kind === 'bucket'
    // Nothing typed is nothing lost; what is not right yet stays to be mended.
    if (fault.value || (made && unfinished.value && history.shown.value !== history.kept.value)) return
    history.step(history.shown.value)
    close()
  }

  /** Keeps once all that is under way has come to rest: a fault in it stays to be mended. */
  function keepAnswered(): Promise<void> {
    keeping.value ??= settleAndKeep().finally(() => (keeping.value = null))
    return keeping.value
  }
  const keeping = shallowRef<Promise<void> | null>(null)
  async function settleAndKeep() {
    const open = editing.value
    await flush()
    await proposing
    await nextTick()
    if (filters(open)) await until(() => run.state.value.kind !== 'running').toBe(true, { timeout: 5_000 })
    if (editing.value === open) keep()
  }

  function revert() {
    history.revert()
    undo?.()
    close()
  }

  return {
    editing,
    session,
    /** What is open is about to be kept. */
    settling: computed(() => keeping.value !== null),
    tryOut,
    openNew,
    fault,
    unfinished,
    openDerived,
    newLinked,
    newWithin,
    tryCalculated,
    tryBucket,
    removeDerived,
    bucketAge,
    open,
    openCondition,
    newCondition,
    change,
    chosen,
    addAnother,
    removeCondition,
    dropGroup,
    turn,
    groupMoved,
    changeGroup: tryOut,
    units,
    keep,
    keepAnswered,
    revert,
  }
}
