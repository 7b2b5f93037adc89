import { shallowRef, type Ref } from 'vue'
import type { Field, Group } from '../../api/client'
import { addGroup, removeGroup, setGroup, turnGroup, type Axis } from '../document'
import type { Unit } from '../foundFields'
import { unitsOf, type UnitGroups } from '../units'
import type { History } from '../../work/useHistory'
import type { EditingOf } from './editing'
import type { Session } from './session'

/** Editors of the levels of groups. */
export function useGroups(
  { editing, open, awaited, finish }: Session,
  history: History,
  byPath: Ref<ReadonlyMap<string, Field>>,
) {
  /** How many groups each unit of time would make of what is grouped by. */
  const units = shallowRef<UnitGroups | null>(null)

  /** Opens a level; keeping is the total that its groups are to be kept by, if that is asked for. */
  async function openGroup(axis: Axis, index: number, anchor: HTMLElement, keeping?: Group['keep']) {
    const group: EditingOf<'group'> = { kind: 'group', axis, index, keeping, anchor }
    await open(group)
    const field = byPath.value.get(history.kept.value[axis]?.[index]?.field ?? '')
    if (editing.value === group && field) void propose(group, field, false)
  }
  /** A new level, down the side. */
  function newGroup(field: Field, unit: Unit | undefined, anchor: HTMLElement, before = history.kept.value) {
    const doc = addGroup(before, field, unit)
    history.tryOut(doc)
    const index = (doc.groups?.length ?? 1) - 1
    const group: EditingOf<'group'> = { kind: 'group', axis: 'groups', index, anchor }
    editing.value = group
    awaited.value = propose(group, field, unit === undefined, before)
  }
  /** Counts the groups of each unit and, if none was chosen by name or by hand, takes the one that reads best. */
  async function propose(
    group: EditingOf<'group'>,
    field: Field,
    take: boolean,
    making = history.kept.value,
  ) {
    units.value = null
    const before = history.shown.value
    const got = await unitsOf(making, field)
    if (editing.value !== group || !got) return
    units.value = got
    if (take && history.shown.value === before)
      history.tryOut(setGroup(before, group.axis, group.index, { unit: got.proposed }))
  }

  function dropGroup() {
    if (editing.value?.kind === 'group')
      finish(removeGroup(history.shown.value, editing.value.axis, editing.value.index))
  }
  /** Turns the level of groups being edited from down the side to across the top, or back. */
  function turn() {
    if (editing.value?.kind === 'group')
      finish(turnGroup(history.shown.value, editing.value.axis, editing.value.index))
  }
  function groupMoved(index: number) {
    if (editing.value?.kind === 'group') editing.value = { ...editing.value, index }
  }
  return { units, openGroup, newGroup, dropGroup, turn, groupMoved }
}
