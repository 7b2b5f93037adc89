import { describe, expect, it } from 'vitest'
import { Problem } from '../api/problem'
import { partBytes, sendFile, type Put } from './sending'

const file = new Blob([new Uint8Array(2 * partBytes + 10)])
const lost = () => Promise.reject(new Problem(0, 'no answer'))

function sending(put: Put, ask = lost as () => Promise<{ received: number }>) {
  const told: number[] = []
  const control = new AbortController()
  const done = sendFile(file, {
    from: 0,
    put,
    ask,
    told: (n) => told.push(n),
    signal: control.signal,
    pause: () => Promise.resolve(),
  })
  return { told, control, done }
}

describe('sending a file', () => {
  it('goes on where the server stands after a lost answer', async () => {
    const sent: number[] = []
    let there = 0
    const { told, done } = sending(
      (at, part) => {
        sent.push(at)
        there = Math.max(there, at + part.size)
        // The part arrives, and the answer to it is lost.
        return sent.length === 2 ? lost() : Promise.resolve({ received: there })
      },
      () => Promise.resolve({ received: there }),
    )
    await done
    expect(sent).toEqual([0, partBytes, 2 * partBytes])
    expect(told.at(-1)).toBe(file.size)
  })
  it('gives up after a while, and at once when it is refused', async () => {
    let tries = 0
    await expect(
      sending(() => {
        tries++
        return lost()
      }).done,
    ).rejects.toThrow('no answer')
    expect(tries).toBe(7)
    tries = 0
    await expect(
      sending(() => {
        tries++
        return Promise.reject(new Problem(404, 'gone'))
      }).done,
    ).rejects.toThrow('gone')
    expect(tries).toBe(1)
  })
})
