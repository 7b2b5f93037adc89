import type { Schemas } from '../api/client'

export type Share = Schemas['Share']

/** A share by whom it is with: two of one key are the same. */
export const keyOf = (s: Share) => (s.group ? `group ${s.group}` : s.role ? `role ${s.role}` : 'everyone')

const roles: Record<string, string> = {
  reader: 'All readers',
  analyst: 'All analysts',
  administrator: 'All administrators',
}

/** Whom a share is with, in words. */
export const withWhom = (s: Share) => (s.group ? (s.name ?? 'A group') : s.role ? roles[s.role]! : 'Everyone')

/** Everything a view can be shared with. */
export function choices(groups: readonly Schemas['GroupName'][]): Share[] {
  return [
    {},
    ...(['reader', 'analyst', 'administrator'] as const).map((role) => ({ role })),
    ...groups.map((g) => ({ group: g.id, name: g.name })),
  ]
}

/** Of how many records groups have to be that are shown without their records, usually. */
export const usualLeast = 5

/** Whether two lists let the same people do the same. */
export function sameShares(a: readonly Share[], b: readonly Share[]): boolean {
  const text = (list: readonly Share[]) =>
    list
      .map((s) => `${keyOf(s)} ${s.edit ? 'edit' : ''} ${s.totals ?? 0}`)
      .sort()
      .join('|')
  return text(a) === text(b)
}

/** A list of shares, with others added that it does not cover. What it lets people do stays. */
export function withAlso(list: readonly Share[], others: readonly Share[]): Share[] {
  const has = new Set(list.map(keyOf))
  if (has.has('everyone')) return [...list]
  return [...list, ...others.filter((s) => !has.has(keyOf(s))).map((s) => ({ ...s, edit: undefined }))]
}
