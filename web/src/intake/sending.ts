import { Problem } from '../api/problem'

/** How large the parts of a file are, but for the last; as the server has it. */
export const partBytes = 4 * 1024 * 1024

/** Sends one part; the answer says how much of the file is there. */
export type Put = (at: number, part: Blob, signal: AbortSignal) => Promise<{ received: number }>

export interface Sending {
  /** How much is there already. */
  from: number
  put: Put
  /** How much is there now. */
  ask: (signal: AbortSignal) => Promise<{ received: number }>
  told: (received: number) => void
  signal: AbortSignal
  /** Waits before what was lost is sent again; tests do not. */
  pause?: (attempt: number, signal: AbortSignal) => Promise<void>
}

/** How often a part is sent again after the connection was lost, with growing pauses. */
const attempts = 6

/**
 * Sends a file in parts, one after the other. After a lost connection it asks how much is there and goes
 * on; what the server refuses is thrown.
 */
export async function sendFile(file: Blob, s: Sending): Promise<void> {
  const pause = s.pause ?? growing
  let at = s.from
  let lost = 0
  while (at < file.size) {
    try {
      const got = await s.put(at, file.slice(at, at + partBytes), s.signal)
      at = got.received
      lost = 0
    } catch (problem) {
      if (s.signal.aborted) throw problem
      const gone = problem instanceof Problem && problem.status > 0 && problem.status < 500
      if (gone && problem.status !== 409 && problem.status !== 408) throw problem
      if (++lost > attempts) throw problem
      await pause(lost, s.signal)
      at = await s.ask(s.signal).then(
        (now) => now.received,
        (trouble: unknown) => {
          if (trouble instanceof Problem && trouble.status === 404) throw trouble
          return at
        },
      )
    }
    s.told(at)
  }
}

function growing(attempt: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, Math.min(500 * 2 ** attempt, 10_000))
    signal.addEventListener('abort', () => {
      clearTimeout(timer)
      reject(signal.reason as Error)
    })
  })
}
