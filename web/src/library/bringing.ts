import type { Document, Schemas } from '../api/client'
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

/** A definition in a file. */
export type FiledDefinition = Schemas['DefinitionBody']

/** What a file of views holds. */
export interface ViewFile {
  views: { name: string; description: string; document: Document }[]
  definitions: FiledDefinition[]
}

/** Reads a file of views, or of one view, or of a bare document; called is what the file is called. */
export function readViewFile(text: string, called: string): ViewFile {
  const got = JSON.parse(text) as Partial<ViewFile> & {
    name?: string
    description?: string
    document?: Document
  }
  const bare = called.replace(/(\.view)?\.json$/, '')
  const views = got.views ?? [
    {
      name: got.name ?? bare,
      description: got.description ?? '',
      document: got.document ?? (got as Document),
    },
  ]
  return {
    views: views.map((v) => ({ name: v.name, description: v.description ?? '', document: v.document })),
    definitions: got.definitions ?? [],
  }
}

/** A definition with other names in place of the unknown ones. */
export function mappedDefinition(d: FiledDefinition, names: ReadonlyMap<string, string>): FiledDefinition {
  return mapped(d as unknown as Document, names) as unknown as FiledDefinition
}

/** The key by which views use a definition. */
export const keyOf = (d: FiledDefinition) => d.calculated?.key ?? d.bucket?.key ?? ''

/**
 * The definitions of a file that are not here; and those that are here otherwise, which stay as they are
 * here.
 */
export function missing(
  filed: readonly FiledDefinition[],
  here: readonly { records: string; key: string; calculated?: unknown; bucket?: unknown }[],
): { missing: FiledDefinition[]; otherwise: FiledDefinition[] } {
  const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null)
  const found = (d: FiledDefinition) => here.find((h) => h.records === d.records && h.key === keyOf(d))
  return {
    missing: filed.filter((d) => !found(d)),
    otherwise: filed.filter((d) => {
      const h = found(d)
      return h && !(same(h.calculated, d.calculated) && same(h.bucket, d.bucket))
    }),
  }
}
