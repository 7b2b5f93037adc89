/** Colours that an owner can mark a view with. */
export const marks = ['mulberry', 'pine', 'honey', 'slate'] as const
export type Mark = (typeof marks)[number] | ''

const grounds: Record<string, string> = {
  mulberry: 'bg-mulberry',
  pine: 'bg-pine',
  honey: 'bg-honey',
  slate: 'bg-slate',
}
/** The ground of a mark; a quiet one for none. */
export const groundOf = (mark: string) => grounds[mark] ?? 'bg-rule'

/** Where a view or a board opens: a template begins one of one's own. */
export function openingOf(v: { key: string; kind: 'view' | 'board'; set: string; template: boolean }) {
  if (v.kind === 'board') return v.template ? `/b/new?from=${v.key}` : `/b/${v.key}`
  return v.template && v.set ? `/new/${v.set}?from=${v.key}` : `/v/${v.key}`
}
