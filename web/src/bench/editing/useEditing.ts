import type { Ref } from 'vue'
import { useQueryClient } from '@tanstack/vue-query'
import type { Field, LinkBy, LinkedOffer } from '../../api/client'
import { queries } from '../../api/queries'
import { loneLinked, takeOffer } from '../derivedFields'
import type { Unit } from '../foundFields'
import type { History } from '../../work/useHistory'
import type { Run } from '../useRun'
import { useConditions } from './conditions'
import { useDerived } from './derived'
import { useGroups } from './groups'
import { useSession } from './session'

/** The editors that hang from the brief, of one session. */
export function useEditing(
  history: History,
  run: Run,
  byPath: Ref<ReadonlyMap<string, Field>>,
  linkedBy: Ref<readonly LinkBy[]>,
) {
  const client = useQueryClient()
  const session = useSession(history, run)
  const conditions = useConditions(session, history, byPath, linkedBy)
  const groups = useGroups(session, history, byPath)
  const derived = useDerived(session, history, byPath, linkedBy)

  /** A field was found for what is being added. */
  function chosen(field: Field, unit?: Unit) {
    const open = session.editing.value
    if (open?.kind !== 'find') return
    if (open.purpose === 'group') groups.newGroup(field, unit, open.anchor)
    else conditions.newCondition(field, open.beside, open.anchor, open.purpose === 'ask')
  }
  /** A value of linked records was found for what is being added: the view makes it a field. */
  async function chosenOffer(offer: LinkedOffer) {
    const open = session.editing.value
    if (open?.kind !== 'find') return
    const { doc, made } = takeOffer(history.kept.value, offer, (key) => byPath.value.has(key))
    const { field } = await client.fetchQuery(queries.madeValue(loneLinked(doc.records, made), made.key))
    if (session.editing.value !== open || !field) return
    if (open.purpose === 'group') groups.newGroup(field, undefined, open.anchor, doc)
    else conditions.newCondition(field, open.beside, open.anchor, open.purpose === 'ask', doc)
  }
  /** Puts a value of linked records into bands: the view makes it a field first. */
  async function bucketOffer(offer: LinkedOffer) {
    const open = session.editing.value
    if (open?.kind !== 'bucket') return
    const { doc, made } = takeOffer(open.before, offer, (key) => byPath.value.has(key))
    const { field: of } = await client.fetchQuery(queries.madeValue(loneLinked(doc.records, made), made.key))
    if (session.editing.value !== open || !of) return
    session.editing.value = { kind: 'bucket', made: null, of, before: doc, anchor: open.anchor }
  }
  /** Keeps the linked value that is open, and asks which records it is to keep. */
  async function filterByMade(key: string) {
    const { anchor } = session.editing.value ?? {}
    if (!anchor || !(await session.ready())) return
    const field = byPath.value.get(key)
    if (field) conditions.newCondition(field, null, anchor)
  }
  return { ...session, ...conditions, ...groups, ...derived, chosen, chosenOffer, bucketOffer, filterByMade }
}

export type Editor = ReturnType<typeof useEditing>
