import type { Ref } from 'vue'
import type { Beside, Bucket, Calculated, Document, Field, LinkBy, LinkedValue } from '../../api/client'
import {
  addDerivedColumn,
  dropDerived,
  freshKey,
  freshLabel,
  type makings,
  nameIn,
  putBeside,
  putBucket,
  putCalculated,
  putLinked,
} from '../derivedFields'
import type { History } from '../../work/useHistory'
import { makesField } from './editing'
import type { Session } from './session'

/** Editors of what a view makes itself: calculated fields, buckets, values of linked records. */
export function useDerived(
  { editing, unfinished, begin, ready, finish }: Session,
  history: History,
  byPath: Ref<ReadonlyMap<string, Field>>,
  linkedBy: Ref<readonly LinkBy[]>,
) {
  /** Opens the editor of what the view makes, at a place of one of its lists. */
  async function openMade(list: (typeof makings)[number], index: number, anchor: HTMLElement) {
    if (list === 'linked') return openLinkedValue(index, anchor)
    if (list === 'beside') return openBeside(history.kept.value.beside?.[index] ?? null, anchor)
    return openDerived(list === 'calculated' ? 'calculate' : 'bucket', index, anchor)
  }
  async function openLinkedValue(index: number, anchor: HTMLElement) {
    if (!(await ready())) return
    const before = history.kept.value
    const made = before.linked?.[index]
    const source = linkedBy.value.find((l) => l.records === made?.records && l.by === made.by)
    if (made && source) begin({ kind: 'linkedValue', made, source, before, anchor })
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
  function tryCalculated(made: Calculated | null, fn?: string, before?: Document) {
    const at = editing.value
    if (at?.kind !== 'calculate') return
    unfinished.value = made === null
    if (!made) return
    const doc = putCalculated(before ?? at.before, made)
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
  /** Opens the editor of a field that sets records beside each other, or of a new one of a field. */
  async function openBeside(
    made: Beside | null,
    anchor: HTMLElement,
    start?: { take: Beside['take']; field: string },
  ) {
    if (await ready()) begin({ kind: 'beside', made, start, before: history.kept.value, anchor })
  }
  function tryBeside(made: Beside | null) {
    const at = editing.value
    if (at?.kind !== 'beside') return
    unfinished.value = made === null
    if (!made) return
    const doc = putBeside(at.before, made)
    history.tryOut(at.made ? doc : addDerivedColumn(doc, made.key, undefined))
  }
  /** Tries a linked value out; a new one is shown as a column. */
  function tryLinkedValue(made: LinkedValue | null, fn?: string) {
    const at = editing.value
    if (at?.kind !== 'linkedValue') return
    unfinished.value = made === null
    if (!made) return
    const doc = putLinked(at.before, made)
    history.tryOut(at.made ? doc : addDerivedColumn(doc, made.key, fn))
  }
  /** Shows the value that a condition on linked records looks at, as a column beside it. */
  function showLinked(made: LinkedValue, fn?: string) {
    if (editing.value?.kind !== 'linked') return
    finish(addDerivedColumn(putLinked(history.shown.value, made), made.key, fn))
  }
  function removeDerived() {
    const at = editing.value
    if (makesField(at) && at.made) finish(dropDerived(at.before, at.made.key))
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
    const before = putCalculated(at.before, age)
    editing.value = { kind: 'bucket', made: null, of, before, anchor: at.anchor }
  }
  return {
    openMade,
    openDerived,
    openBeside,
    tryBeside,
    tryCalculated,
    tryBucket,
    tryLinkedValue,
    showLinked,
    removeDerived,
    bucketAge,
  }
}
