import type { FieldLook, FileLook, FileRecipe, RecipeField } from '../api/client'

/** A recipe with one field otherwise. */
export function withField(r: FileRecipe, at: number, change: Partial<RecipeField>): FileRecipe {
  const fields = r.fields.map((f, i) => (i === at ? { ...f, ...change } : f))
  const key = r.fields[at]?.key ?? ''
  const gone = !!fields[at]?.out
  return {
    ...r,
    fields,
    by: gone ? r.by?.filter((k) => k !== key) : r.by,
    links: gone ? r.links?.filter((l) => l.by !== key) : r.links,
  }
}

/** A field as another type, in the likeliest way; of amounts, the currency stays. */
export function withType(r: FileRecipe, at: number, look: FieldLook, type: RecipeField['type']): FileRecipe {
  const way = look.choices.find((c) => c.type === type)?.ways[0]?.key
  return withField(r, at, {
    type,
    way,
    currency: type === 'money' ? r.fields[at]?.currency : undefined,
  })
}

/** A recipe whose records a field tells apart, too, or no longer. */
export function withKey(r: FileRecipe, key: string, on: boolean): FileRecipe {
  const by = (r.by ?? []).filter((k) => k !== key)
  return { ...r, by: on ? [...by, key] : by }
}

/** A recipe in which a field leads to other records, or, with no record set, nowhere. */
export function withLink(r: FileRecipe, by: string, to: string, into: string): FileRecipe {
  const links = (r.links ?? []).filter((l) => l.by !== by)
  return { ...r, links: to ? [...links, { by, to, into }] : links }
}

/** What is said of a field that does not fit, or must be chosen; empty if all is well. */
export function troubleOf(f: RecipeField, look: FieldLook): string {
  if (!look.there) return 'not in this file'
  if (f.out) return ''
  if (look.open.length) return 'can be read in several ways: choose one'
  if (look.misfits) return look.misfits === 1 ? '1 value does not fit' : `${look.misfits} values do not fit`
  return ''
}

/** A name for records out of a file's: "price-list_2026.csv" makes "Price list 2026". */
export function nameOf(file: string): string {
  const stem = file.replace(/\.[^.]*$/, '')
  const words = stem.replace(/[_-]+/g, ' ').trim()
  return (words.charAt(0).toUpperCase() + words.slice(1)).slice(0, 60)
}

/** The fields that could tell records apart, the likeliest first: a text, then a number. */
export function keysOf(look: FileLook): string[] {
  const fit = look.recipe.fields.filter((f, i) => !f.out && look.fields[i]?.apart)
  const rank = (f: RecipeField) => (f.type === 'text' ? 0 : f.type === 'whole' ? 1 : 2)
  return fit.sort((a, b) => rank(a) - rank(b)).map((f) => f.key)
}

/** The endings of files that can be brought in. */
export const acceptedFiles = '.csv,.tsv,.txt,.xlsx,.jsonl,.ndjson,.json,.parquet'

/** A size as people read it. */
export function sizeOf(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`
  const units = ['KB', 'MB', 'GB']
  let n = bytes / 1000
  let unit = 0
  for (; n >= 999.5 && unit < 2; unit++) n /= 1000
  return `${n < 10 ? n.toFixed(1) : Math.round(n)} ${units[unit]}`
}
