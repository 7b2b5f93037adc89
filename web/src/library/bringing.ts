import type { Document } from '../api/client'
import type { Fault } from '../api/problem'

/** Something that a view from elsewhere names and that is not here. */
export interface Unknown {
  kind: 'records' | 'field'
  was: string
  why: string
}

/** What stands at a place of a document: "columns[2].field". */
function valueAt(document: Document, path: string): unknown {
  return [...path.matchAll(/[^.[\]]+/g)].reduce<unknown>(
    (at, [key]) => (typeof at === 'object' && at !== null ? (at as Record<string, unknown>)[key] : undefined),
    document,
  )
}

/** Keys under which a document names a field. */
const naming = new Set(['field', 'of', 'by', 'other', 'date'])

/** The names that stand behind the faults, each once; faults of another kind are none. */
export function unknowns(document: Document, faults: readonly Fault[]): Unknown[] {
  const out = new Map<string, Unknown>()
  for (const f of faults) {
    const key = f.path.split('.').at(-1) ?? ''
    const was = valueAt(document, f.path)
    if (typeof was !== 'string' || !was || (f.path !== 'records' && !naming.has(key))) continue
    out.set(was, { kind: f.path === 'records' ? 'records' : 'field', was, why: f.message })
  }
  return [...out.values()]
}

/** The document with other names in place of the unknown ones, wherever it names them. */
export function mapped(document: Document, names: ReadonlyMap<string, string>): Document {
  const walk = (value: unknown, key: string): unknown => {
    if (typeof value === 'string')
      return naming.has(key) || key === 'records' ? (names.get(value) ?? value) : value
    if (Array.isArray(value)) return value.map((v) => walk(v, key))
    if (typeof value === 'object' && value !== null)
      return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, walk(v, k)]))
    return value
  }
  return walk(document, '') as Document
}
