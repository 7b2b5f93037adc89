/** Steps on what a view makes itself: calculated fields, buckets, and values of linked records. */
import type {
  Beside,
  Bucket,
  Calculated,
  Column,
  Condition,
  Document,
  Field,
  Fn,
  LinkedOffer,
  LinkedValue,
} from '../api/client'

/** The lists of a document that make fields. */
export const makings = ['calculated', 'buckets', 'linked', 'beside'] as const

/** Everything that a document makes. */
export const makes = (doc: Document): { key: string; label: string }[] =>
  makings.flatMap((list): { key: string; label: string }[] => doc[list] ?? [])

/** A key made from a label, that neither the document nor its records use yet. */
export function freshKey(doc: Document, label: string, taken: (key: string) => boolean): string {
  const stem =
    label
      .toLowerCase()
      .normalize('NFD')
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '')
      .slice(0, 40) || 'made'
  const used = (key: string) => taken(key) || makes(doc).some((m) => m.key === key)
  let key = stem
  for (let n = 2; used(key); n++) key = `${stem}_${n}`
  return key
}

/** A list with one of its members in place of the one with the same key, or at its end. */
function put<T extends { key: string }>(list: readonly T[] | undefined, made: T): T[] {
  const had = list?.some((x) => x.key === made.key)
  return had ? list!.map((x) => (x.key === made.key ? made : x)) : [...(list ?? []), made]
}
export const putCalculated = (doc: Document, made: Calculated): Document => ({
  ...doc,
  calculated: put(doc.calculated, made),
})
export const putBucket = (doc: Document, made: Bucket): Document => ({
  ...doc,
  buckets: put(doc.buckets, made),
})
export const putLinked = (doc: Document, made: LinkedValue): Document => ({
  ...doc,
  linked: put(doc.linked, made),
})

export const putBeside = (doc: Document, made: Beside): Document => ({
  ...doc,
  beside: put(doc.beside, made),
})

/** The key of a value that is only offered. */
export const loneKey = 'offered'
/** Records with nothing but a linked value. */
export const loneLinked = (records: string, made: LinkedValue): Document => ({
  gavrik: 1,
  records,
  columns: [],
  linked: [{ ...made, key: made.key || loneKey }],
})

/** An offered value as finders of fields show it. */
export const offeredField = (offer: LinkedOffer): Field => ({
  path: offer.label,
  label: offer.label,
  way: [offer.by.label],
  meaning: offer.meaning,
  type: offer.type,
  typeName: offer.typeName,
  numeric: false,
  filled: 1,
  samples: [],
  ops: [],
  fns: [],
  takes: [],
  beside: [],
  kind: 'linked',
})

/** Makes an offered value of linked records a field of the view; the same one is made once. */
export function takeOffer(doc: Document, offer: LinkedOffer, taken: (key: string) => boolean) {
  const same = (v: LinkedValue) =>
    JSON.stringify({ ...offer.made, key: '', label: '' }) === JSON.stringify({ ...v, key: '', label: '' })
  const had = doc.linked?.find(same)
  if (had) return { doc, made: had }
  const label = freshLabel(doc, offer.label)
  const made = { ...offer.made, label, key: freshKey(doc, label, taken) }
  return { doc: putLinked(doc, made), made }
}

/** Adds a column of a field that was just made, with the total that fits. */
export function addDerivedColumn(doc: Document, key: string, fn: string | undefined): Document {
  const column: Column = { field: key, totals: fn ? [{ fn: fn as Fn }] : undefined }
  return { ...doc, columns: [...doc.columns, column] }
}

/** Forgets a field of the view that has become a definition; what uses it stays. */
export function forgetDerived(doc: Document, key: string): Document {
  const left = <T extends { key: string }>(list: T[] | undefined) => {
    const rest = list?.filter((x) => x.key !== key)
    return rest?.length ? rest : undefined
  }
  return {
    ...doc,
    calculated: left(doc.calculated),
    buckets: left(doc.buckets),
    linked: left(doc.linked),
    beside: left(doc.beside),
  }
}

/** Takes a field that the view makes out, with every column, group, sort and condition of it. */
export function dropDerived(doc: Document, key: string): Document {
  const rest = forgetDerived(doc, key)
  const groups = (list: Document['groups']) => list?.filter((g) => g.field !== key)
  return {
    ...rest,
    columns: doc.columns.filter((c) => c.field !== key),
    groups: groups(doc.groups),
    across: groups(doc.across),
    sort: doc.sort?.filter((s) => s.field !== key),
    filter: doc.filter && without(doc.filter, key),
  }
}

function without(condition: Condition, key: string): Condition | undefined {
  if (condition.field === key) return undefined
  for (const kind of ['all', 'any', 'none'] as const) {
    const list = condition[kind]
    if (!list) continue
    const rest = list.flatMap((c) => without(c, key) ?? [])
    return rest.length ? { [kind]: rest } : undefined
  }
  return condition
}

/**
 * A name for a formula that its author has not named: what it says, without quotes. What is only
 * a name as yet gives none: a field of that name would seem to be made of itself.
 */
export function nameOf(formula: string): string {
  const text = formula.replace(/^=/, '').replace(/['"]/g, '').replace(/\s+/g, ' ').trim()
  if (!/[^\p{L}\p{M}\p{N}_. ]/u.test(text)) return ''
  return text.length > 40 ? `${text.slice(0, 39).trimEnd()}…` : text
}

/** A text as formulas write the name of a field. */
export function quoted(label: string): string {
  return `'${label.replaceAll("'", "''")}'`
}

/** What a formula calls a field: its label or, where one as near has that too, its path. */
export function nameIn(fields: readonly Field[], field: Field): string {
  const same = (f: Field) => f.label.toLowerCase() === field.label.toLowerCase() || f.path === field.label
  const shared = fields.some((f) => f.path !== field.path && f.way.length <= field.way.length && same(f))
  return quoted(shared ? field.path : field.label)
}

/** A label that no field has that the view makes, but for the one of a key. */
export function freshLabel(doc: Document, label: string, key?: string): string {
  const others = makes(doc).filter((m) => m.key !== key)
  const taken = others.map((m) => m.label.toLowerCase())
  let out = label
  for (let n = 2; taken.includes(out.toLowerCase()); n++) out = `${label} ${n}`
  return out
}

export interface Starter {
  name: string
  meaning: string
  formula: string
  unit?: Calculated['unit']
}

/** Formulas that people need most, with fields of these records put in. */
export function startersFor(fields: readonly Field[]): Starter[] {
  // A number that only names the record is nothing to calculate with.
  const own = fields.filter((f) => !f.kind && f.way.length === 0 && f.path !== 'id')
  const of = (...types: string[]) => own.filter((f) => types.includes(f.type)).map((f) => nameIn(fields, f))
  const moments = of('datetime'),
    dates = of('date', 'datetime'),
    amounts = [...of('money'), ...of('decimal', 'whole')],
    texts = of('text')
  const out: Starter[] = []
  if (moments[0] && moments[1])
    out.push({
      name: 'Time between two moments',
      meaning: 'a duration',
      formula: `${moments[1]} - ${moments[0]}`,
    })
  if (dates[0]) {
    out.push({ name: 'Days since', meaning: 'whole days up to today', formula: `DAYS(TODAY(); ${dates[0]})` })
    out.push({
      name: 'Age in whole years',
      meaning: 'years passed in full',
      formula: `DATEDIF(${dates[0]}; TODAY(); "y")`,
    })
    out.push({
      name: 'Working days',
      meaning: 'from Monday to Friday',
      formula: `NETWORKDAYS(${dates[0]}; TODAY())`,
    })
  }
  if (amounts[0] && amounts[1]) {
    out.push({
      name: 'What is left',
      meaning: 'a blank counts as 0',
      formula: `${amounts[0]} - COALESCE(${amounts[1]}; 0)`,
    })
    out.push({
      name: 'Ratio of two totals',
      meaning: 'for each group, never an average of ratios',
      formula: `SUM(${amounts[1]}) / SUM(${amounts[0]})`,
      unit: 'percent',
    })
  }
  if (texts[1])
    out.push({
      name: 'Share of some records',
      meaning: 'of all records of the group',
      formula: `COUNT(IF(${texts[1]} = "…"; 1)) / COUNT()`,
      unit: 'percent',
    })
  if (amounts[0])
    out.push({
      name: 'One value or another',
      meaning: 'by a condition',
      formula: `IF(${amounts[0]} > 100; "large"; "small")`,
    })
  if (texts[0] && texts[1])
    out.push({
      name: 'Join text',
      meaning: 'one behind another',
      formula: `${texts[0]} & ", " & ${texts[1]}`,
    })
  return out
}
