import type {
  Beside as BesideField,
  Bucket,
  Calculated,
  Condition,
  Document,
  Field,
  Group,
  LinkBy,
  Linked,
  LinkedValue,
  Schemas,
} from '../../api/client'
import type { Axis } from '../document'

/** Where a new condition goes: beside another, of which one must hold, or both. */
export type Beside = { path: string; kind: 'all' | 'any' }

/** What can be added to a view from the words behind its brief. */
export type AddWhat = 'filter' | 'ask' | 'group' | 'columns' | 'calculate' | 'bucket' | 'sort' | 'compare'

/** A condition being edited: its path in the document tried out, and what it makes of the view. */
interface OfFilter {
  place: string
  apply: (c: Condition | null) => Document
  anchor: HTMLElement
}

/** The small editor that is open, and what it needs. */
export type Editing =
  // a field is being chosen for a new condition or a new level of groups
  | { kind: 'find'; purpose: 'filter' | 'group' | 'ask'; beside: Beside | null; anchor: HTMLElement }
  | ({ kind: 'condition'; field: Field; condition: Condition | null; context: Document } & OfFilter)
  | ({ kind: 'linked'; source: LinkBy; linked: Linked | null } & OfFilter)
  | ({ kind: 'within'; within: Schemas['Within'] } & OfFilter)
  | { kind: 'group'; axis: Axis; index: number; keeping?: Group['keep']; anchor: HTMLElement }
  // made is what is being changed, none for a new one; before is the view without the change
  | { kind: 'calculate'; made: Calculated | null; before: Document; anchor: HTMLElement }
  | { kind: 'bucket'; made: Bucket | null; of?: Field; before: Document; anchor: HTMLElement }
  | { kind: 'linkedValue'; made: LinkedValue | null; source: LinkBy; before: Document; anchor: HTMLElement }
  | {
      kind: 'beside'
      made: BesideField | null
      start?: { take: BesideField['take']; field: string }
      before: Document
      anchor: HTMLElement
    }
  | { kind: 'columns' | 'sort' | 'compare'; anchor: HTMLElement }

export type EditingOf<K extends Editing['kind']> = Extract<Editing, { kind: K }>

/** Whether what is open makes a field. */
export function makesField(
  open: Editing | null,
): open is EditingOf<'calculate' | 'bucket' | 'linkedValue' | 'beside'> {
  return ['calculate', 'bucket', 'linkedValue', 'beside'].includes(open?.kind ?? '')
}

/** Whether what is open edits a part of the filter. */
export function filters(open: Editing | null): open is EditingOf<'condition' | 'linked' | 'within'> {
  return open?.kind === 'condition' || open?.kind === 'linked' || open?.kind === 'within'
}
