/** Whether two documents, or parts of them, say the same. */
export function sameDocument<T extends object>(a: T, b: T): boolean {
  return canonical(a) === canonical(b)
}

/** Text that is equal for documents that say the same: key order and empty lists do not count. */
function canonical(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) => {
    if (v === null || typeof v !== 'object' || Array.isArray(v)) return v
    // Rounding to no decimals is not the same as not rounding.
    const kept = Object.entries(v).filter(
      ([key, x]) =>
        x !== undefined &&
        x !== '' &&
        x !== false &&
        (x !== 0 || key === 'decimals') &&
        !(Array.isArray(x) && !x.length),
    )
    return Object.fromEntries(kept.sort(([x], [y]) => (x < y ? -1 : 1)))
  })
}
