import type { Ref } from 'vue'
import type { Field, LinkBy } from '../../api/client'
import type { Unit } from '../foundFields'
import type { History } from '../useHistory'
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
  const session = useSession(history, run)
  const conditions = useConditions(session, history, byPath, linkedBy)
  const groups = useGroups(session, history, byPath)
  const derived = useDerived(session, history, byPath)

  /** A field was found for what is being added. */
  function chosen(field: Field, unit?: Unit) {
    const open = session.editing.value
    if (open?.kind !== 'find') return
    if (open.purpose === 'group') groups.newGroup(field, unit, open.anchor)
    else conditions.newCondition(field, open.beside, open.anchor, open.purpose === 'ask')
  }
  return { ...session, ...conditions, ...groups, ...derived, chosen }
}

export type Editor = ReturnType<typeof useEditing>
