import { computed, ref, type Ref } from 'vue'
import type { Condition, Field, Line, Op, RecordSet } from '../api/client'
import {
  addCondition,
  addGroup,
  drawable,
  moveColumn,
  removeColumn,
  sortByColumn,
  toggleShow,
  toggleTotal,
} from './document'
import { unitsOf } from './units'
import type { History } from '../work/useHistory'

/** What was chosen in the ledger: a line, and a column of the run (-1: the line as a whole). */
export interface Selection {
  line: Line
  head: number
}

/** What is chosen on the bench, and the acts on it. Each act is one step. */
export function useSelection(
  history: History,
  set: Pick<RecordSet, 'address'>,
  byPath: Ref<ReadonlyMap<string, Field>>,
) {
  /** Index of the chosen column of the document; -1 while there is none. */
  const column = ref(-1)
  const field = computed(() => byPath.value.get(history.shown.value.columns[column.value]?.field ?? ''))
  /** The line and cell that the lens looks at; none while it looks at the column. */
  const chosen = ref<Selection | null>(null)
  /** The lens is there for what is chosen, until it is put away. */
  const lensShown = ref(false)
  const ticked = ref<ReadonlySet<string>>(new Set())
  /** Records have an address to be ticked by. */
  const tickable = computed(() => !!set.address && !history.shown.value.across?.length)

  /** Looks at a column. */
  function chooseColumn(index: number) {
    column.value = index
    chosen.value = null
    lensShown.value = true
  }
  /** Looks at a line or a figure of it; with arrows one passes over many, which opens nothing. */
  function chooseLine(selection: Selection, index = column.value, passing = false) {
    column.value = index
    chosen.value = selection
    if (!passing) lensShown.value = true
  }
  /** The chosen column, if its values can be put into bands. */
  const bucketable = computed(() => {
    const f = field.value
    const can =
      f &&
      f.type !== 'picture' &&
      f.type !== 'yesno' &&
      f.kind !== 'per_total' &&
      f.kind !== 'bucket' &&
      !f.technical &&
      !(f.unique && f.type === 'text') // each would be alone in its band
    return can ? f : undefined
  })
  const keep = (condition: Condition) => history.step(addCondition(history.kept.value, condition).doc)
  function keepAll(conditions: readonly Condition[]) {
    history.step(conditions.reduce((doc, c) => addCondition(doc, c).doc, history.kept.value))
  }
  /** Leaves the records out that meet all of some conditions. */
  function leaveOut(conditions: readonly Condition[]) {
    const [only] = conditions
    const negative: Partial<Record<Op, Op>> = {
      one_of: 'none_of',
      is: 'is_not',
      between: 'not_between',
      weekday: 'not_weekday',
      hour: 'not_hour',
      blank: 'filled',
    }
    const op = conditions.length === 1 && only?.op ? negative[only.op] : undefined
    keep(
      only && op
        ? { ...only, op }
        : { none: [conditions.length === 1 && only ? only : { all: [...conditions] }] },
    )
  }
  /** Shows the records behind a figure and nothing around them. */
  function seeRecords(conditions: readonly Condition[]) {
    const doc = conditions.reduce((d, c) => addCondition(d, c).doc, history.kept.value)
    history.step({ ...doc, groups: undefined, across: undefined, compare: undefined, chart: undefined })
  }
  const ofValue = (f: Field, value: string): Condition => {
    if (!value) return { field: f.path, op: 'blank' }
    return f.type === 'yesno'
      ? { field: f.path, op: 'is', value: value.toLowerCase() }
      : { field: f.path, op: 'one_of', values: [value] }
  }
  function keepRange(from: string | undefined, below: string | undefined) {
    const path = field.value?.path
    if (!path) return
    const bounds: Condition[] = []
    if (from) bounds.push({ field: path, op: 'at_least', value: from })
    if (below) bounds.push({ field: path, op: 'under', value: below })
    keepAll(bounds)
  }

  function tick(records: readonly string[]) {
    const next = new Set(ticked.value)
    const on = !records.every((r) => next.has(r))
    for (const r of records) {
      if (on) next.add(r)
      else next.delete(r)
    }
    ticked.value = next
  }
  function useTicked(op: 'one_of' | 'none_of') {
    keep({ field: set.address, op, values: [...ticked.value] })
    ticked.value = new Set()
  }

  /** Draws a column's total or, of a column without one, the number of records. */
  function chart(index: number) {
    const doc = history.kept.value
    const c = doc.columns[index]
    const drawn = c?.totals?.length || byPath.value.get(c?.field ?? '')?.kind === 'per_total'
    history.step({
      ...doc,
      chart: { ...doc.chart, field: drawn ? c?.field : undefined, fn: c?.totals?.find((t) => !t.show)?.fn },
    })
  }
  /** Takes the chart away, or draws the first total there is. */
  function toggleChart() {
    const doc = history.kept.value
    if (doc.chart) history.step({ ...doc, chart: undefined })
    else chart(doc.columns.findIndex((c) => c.totals?.some(drawable)))
  }

  return {
    column,
    field,
    chosen,
    lensShown,
    bucketable,
    ticked,
    tickable,
    chooseColumn,
    chooseLine,
    keep,
    keepAll,
    leaveOut,
    seeRecords,
    keepRange,
    tick,
    useTicked,
    chart,
    toggleChart,
    keepValue: (f: Field, value: string) => keep(ofValue(f, value)),
    leaveValueOut: (f: Field, value: string) => leaveOut([ofValue(f, value)]),
    group: async () => {
      const f = field.value
      if (!f || f.type === 'picture') return
      const units = await unitsOf(history.kept.value, f)
      if (field.value === f) history.step(addGroup(history.kept.value, f, units?.proposed))
    },
    sortBy: (index = column.value) => history.step(sortByColumn(history.kept.value, index)),
    total: (fn = field.value?.fns[0]?.fn) => {
      if (fn) history.step(toggleTotal(history.kept.value, column.value, fn))
    },
    show: (show: Parameters<typeof toggleShow>[2]) =>
      history.step(toggleShow(history.kept.value, column.value, show)),
    move: (from: number, to: number) => {
      history.step(moveColumn(history.kept.value, from, to))
      column.value = to
      chosen.value = null
    },
    takeOut: () => {
      history.step(removeColumn(history.kept.value, column.value))
      column.value = -1
      lensShown.value = false
    },
  }
}

export type SelectionActions = ReturnType<typeof useSelection>
