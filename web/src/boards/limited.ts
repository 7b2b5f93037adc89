/** Carries out so many things at once and no more; others wait for their turn, the first asked first. */
export function limited(most: number) {
  let busy = 0
  const waiting: (() => void)[] = []
  return async <T>(signal: AbortSignal, does: () => Promise<T>): Promise<T> => {
    if (busy >= most) await new Promise<void>((go) => waiting.push(go))
    else busy++
    try {
      signal.throwIfAborted()
      return await does()
    } finally {
      const next = waiting.shift()
      if (next) next()
      else busy--
    }
  }
}
