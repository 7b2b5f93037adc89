import type { FieldWords, LinkWords, SetWords } from '../api/client'

/**
 * What people say is kept apart from what the database says: a word that is the same as the
 * database's, or blank, says nothing.
 */
export function said(typed: string, loaded: string): string | undefined {
  const text = typed.trim().replace(/\s+/g, ' ')
  return text === '' || text === loaded ? undefined : text
}

/** The same for words that may be empty on purpose, as a meaning that says nothing. */
export function saidOrNone(typed: string, loaded: string): string | undefined {
  const text = typed.trim()
  return text === loaded ? undefined : text
}

/** Without what is undefined. */
function kept<T extends object>(words: T): T {
  return Object.fromEntries(Object.entries(words).filter(([, v]) => v !== undefined)) as T
}

/** A description with other words about itself. */
export const withSet = (before: SetWords, words: Partial<SetWords>): SetWords => kept({ ...before, ...words })

/** A description with other words about one field. */
export function withField(before: SetWords, key: string, words: FieldWords): SetWords {
  const fields = { ...before.fields, [key]: kept(words) }
  if (!Object.keys(fields[key]!).length) delete fields[key]
  return kept({ ...before, fields: Object.keys(fields).length ? fields : undefined })
}

/** A description with other words about one link; none take an added link away. */
export function withLink(before: SetWords, key: string, words: LinkWords | undefined): SetWords {
  const links = { ...before.links, [key]: kept(words ?? {}) }
  if (!Object.keys(links[key]!).length) delete links[key]
  return kept({ ...before, links: Object.keys(links).length ? links : undefined })
}

/** The fields in another order, said only as far as it differs from the database's. */
export function withOrder(before: SetWords, order: readonly string[], loaded: readonly string[]): SetWords {
  let last = order.length
  // What stands at the end as the database has it need not be said.
  while (last > 0) {
    const rest = loaded.filter((k) => !order.slice(0, last - 1).includes(k))
    if (rest.join('\n') !== order.slice(last - 1).join('\n')) break
    last--
  }
  return kept({ ...before, order: last ? order.slice(0, last) : undefined })
}

/** A key for an added link, made of what it is called. */
export function linkKeyOf(label: string, taken: readonly string[]): string {
  const stem =
    label
      .normalize('NFD')
      .replace(/\p{M}/gu, '')
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, '_')
      .replace(/^_|_$/g, '') || 'link'
  let key = stem
  for (let n = 2; taken.includes(key); n++) key = `${stem}_${n}`
  return key
}
