/** What a query's key says at its second place: of what thing it is. */
type Asked = { queryKey: readonly unknown[] }

/**
 * Keeps in sight what was answered last while the next answer is on its way, but only where it is of the
 * same thing (field, group, record): figures of another thing under this one's name would be acted
 * on. Queries that use it name the thing at the second place of their key.
 */
export function ofSameThing(thing: unknown) {
  return <T>(previous: T | undefined, query: Asked | undefined): T | undefined =>
    query && JSON.stringify(query.queryKey[1]) === JSON.stringify(thing) ? previous : undefined
}
