/**
 * Steps on a view document. Each returns a new document and leaves the one it is
 * given alone, so that undo is a list of documents.
 */
import type {
  Column,
  Compare,
  Condition,
  Document,
  Field,
  Fn,
  Group,
  RecordSet,
  Sort,
  Total,
} from '../api/client'

/** What a new view starts with: the standard view, if an administrator has set one, or the standard columns. */
export function newDocument(set: RecordSet): Document {
  return set.start ?? { gavrik: 1, records: set.key, columns: plainColumns(set.standard) }
}

// Columns

/** Columns of fields, with nothing set of them. */
export const plainColumns = (fields: readonly string[]): Column[] => fields.map((field) => ({ field }))

export function addColumn(doc: Document, field: string): Document {
  return { ...doc, columns: [...doc.columns, { field }] }
}

export function setColumn(doc: Document, index: number, change: Partial<Column>): Document {
  return { ...doc, columns: doc.columns.map((c, i) => (i === index ? { ...c, ...change } : c)) }
}

export function removeColumn(doc: Document, index: number): Document {
  return { ...doc, columns: doc.columns.filter((_, i) => i !== index) }
}

export function moveColumn(doc: Document, from: number, to: number): Document {
  return { ...doc, columns: moved(doc.columns, from, to) }
}

/** Adds a total that the catalog offers, or takes it away. */
export function toggleTotal(doc: Document, index: number, offered: string): Document {
  const fn = offered as Fn
  const totals = doc.columns[index]?.totals ?? []
  const next = totals.some((t) => t.fn === fn && !t.show)
    ? totals.filter((t) => t.fn !== fn)
    : [...totals, fn === 'percentile' ? { fn, percent: '90' } : { fn }]
  return setColumn(doc, index, { totals: next.length ? next : undefined })
}

/** Changes one total of a column. */
export function setTotal(doc: Document, column: number, total: number, change: Partial<Total>): Document {
  return setColumn(doc, column, {
    totals: doc.columns[column]?.totals?.map((t, i) => (i === total ? { ...t, ...change } : t)),
  })
}

/** Whether a total has a length that a chart can draw. */
export const drawable = (t: Total) => !t.show && t.fn !== 'first' && t.fn !== 'last'

/** Shows a total's share, rank or change beside it, or takes that away again. */
export function toggleShow(doc: Document, index: number, show: NonNullable<Total['show']>): Document {
  const totals = doc.columns[index]?.totals ?? []
  const shown = totals.filter((t) => t.show === show)
  const first = totals.find((t) => !t.show)
  if (!shown.length && !first) return doc
  return setColumn(doc, index, {
    totals: shown.length
      ? totals.filter((t) => t.show !== show)
      : [...totals, { ...first!, label: undefined, show }],
  })
}

// Groups, which run down the side or across the top

export type Axis = 'groups' | 'across'

/** Whether a field has units of time to group by. */
export const dated = (field: Field) => field.type === 'date' || field.type === 'datetime'

export function addGroup(doc: Document, field: Field, unit: Group['unit'] = 'month'): Document {
  const group: Group = { field: field.path }
  if (dated(field)) group.unit = unit
  return { ...doc, groups: [...(doc.groups ?? []), group] }
}

export function setGroup(doc: Document, axis: Axis, index: number, change: Partial<Group>): Document {
  return { ...doc, [axis]: doc[axis]?.map((g, i) => (i === index ? { ...g, ...change } : g)) }
}

export function removeGroup(doc: Document, axis: Axis, index: number): Document {
  return { ...doc, [axis]: doc[axis]?.filter((_, i) => i !== index) }
}

export function moveGroup(doc: Document, axis: Axis, from: number, to: number): Document {
  return { ...doc, [axis]: moved(doc[axis] ?? [], from, to) }
}

/** Turns a level of groups from down the side to across the top, or back; it becomes the innermost there. */
export function turnGroup(doc: Document, axis: Axis, index: number): Document {
  const group = doc[axis]?.[index]
  const other: Axis = axis === 'groups' ? 'across' : 'groups'
  return group ? { ...removeGroup(doc, axis, index), [other]: [...(doc[other] ?? []), group] } : doc
}

// Comparison

export function setCompare(doc: Document, compare: Compare | undefined): Document {
  return { ...doc, compare }
}

// Order

export function setSort(doc: Document, sort: Sort[]): Document {
  return { ...doc, sort: sort.length ? sort : undefined }
}

/**
 * Sorts by a column: the records by its values and, where the column has a total,
 * every level of groups by that total. Sorting by the same column again turns
 * the order round.
 */
export function sortByColumn(doc: Document, index: number): Document {
  const column = doc.columns[index]
  if (!column) return doc
  const first = doc.sort?.[0]
  const numeric = column.totals?.length !== undefined
  const desc = first?.field === column.field ? !first.desc : numeric
  const sorted = setSort(
    doc,
    [{ field: column.field, desc }, ...(doc.sort ?? []).filter((s) => s.field !== column.field)].slice(0, 3),
  )
  const fn = column.totals?.[0]?.fn
  if (!fn || !doc.groups) return sorted
  return {
    ...sorted,
    groups: doc.groups.map((g) => ({ ...g, order: { by: 'total' as const, field: column.field, fn, desc } })),
  }
}

// Conditions. A path is a place in the document: "filter.all[0].any[1]".

type Combination = 'all' | 'any' | 'none'
type Step = { kind: Combination; index: number }

function steps(path: string): Step[] {
  return [...path.matchAll(/\.(all|any|none)\[(\d+)\]/g)].map((m) => ({
    kind: m[1] as Combination,
    index: Number(m[2]),
  }))
}

export function conditionAt(doc: Document, path: string): Condition | undefined {
  return steps(path).reduce<Condition | undefined>((at, s) => at?.[s.kind]?.[s.index], doc.filter)
}

/** Puts a condition at a path, or takes it out; a combination left with one part becomes that part. */
export function setCondition(doc: Document, path: string, condition: Condition | null): Document {
  const filter = doc.filter && replaced(doc.filter, steps(path), condition)
  return { ...doc, filter: filter ? rooted(filter) : undefined }
}

function replaced(at: Condition, route: Step[], condition: Condition | null): Condition | null {
  const [step, ...rest] = route
  if (!step) return condition
  const parts = [...(at[step.kind] ?? [])]
  const part = parts[step.index]
  const next = part ? replaced(part, rest, condition) : null
  parts.splice(step.index, 1, ...(next ? [next] : []))
  if (!parts.length) return null
  const only = parts[0]
  return parts.length === 1 && only && step.kind !== 'none' ? only : { [step.kind]: parts }
}

/** The filter is kept as a list of conditions that all hold, so that the next one can join. */
function rooted(filter: Condition): Condition {
  return filter.all ? filter : { all: [filter] }
}

/** Adds a condition at the end: it must hold as well. Returns its path too. */
export function addCondition(doc: Document, condition: Condition): { doc: Document; path: string } {
  const all = [...(doc.filter ? (rooted(doc.filter).all ?? []) : []), condition]
  return { doc: { ...doc, filter: { all } }, path: `filter.all[${all.length - 1}]` }
}

/** Adds a condition beside another: one of them must hold, or both. */
export function addBeside(
  doc: Document,
  path: string,
  kind: 'all' | 'any',
  condition: Condition,
): { doc: Document; path: string } {
  const route = steps(path)
  const last = route.at(-1)
  if (last?.kind === kind) {
    const parentPath = path.slice(0, path.lastIndexOf('.'))
    const parts = [...(conditionAt(doc, parentPath)?.[kind] ?? [])]
    parts.splice(last.index + 1, 0, condition)
    const parent = { [kind]: parts }
    const next = parentPath === 'filter' ? { ...doc, filter: parent } : setCondition(doc, parentPath, parent)
    return { doc: next, path: `${parentPath}.${kind}[${last.index + 1}]` }
  }
  const here = conditionAt(doc, path)
  const parts = here ? [here, condition] : [condition]
  return { doc: setCondition(doc, path, { [kind]: parts }), path: `${path}.${kind}[${parts.length - 1}]` }
}

function moved<T>(list: readonly T[], from: number, to: number): T[] {
  const next = [...list]
  const [item] = next.splice(from, 1)
  if (item !== undefined) next.splice(Math.max(0, Math.min(to, next.length)), 0, item)
  return next
}
