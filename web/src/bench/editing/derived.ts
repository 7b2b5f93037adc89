import type { Ref } from 'vue'
import type { Bucket, Calculated, Field } from '../../api/client'
import {
  addDerivedColumn,
  dropDerived,
  freshKey,
  freshLabel,
  nameIn,
  putBucket,
  putCalculated,
} from '../derivedFields'
import type { History } from '../useHistory'
import type { Session } from './session'

/** Editors of what a view makes itself: calculated fields and buckets. */
export function useDerived(
  { editing, unfinished, begin, ready, finish }: Session,
  history: History,
  byPath: Ref<ReadonlyMap<string, Field>>,
) {
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
    if ((at?.kind === 'calculate' || at?.kind === 'bucket') && at.made)
      finish(dropDerived(at.before, at.made.key))
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
  return { openDerived, tryCalculated, tryBucket, removeDerived, bucketAge }
}
