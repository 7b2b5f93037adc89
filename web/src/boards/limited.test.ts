import { expect, it } from 'vitest'
import { limited } from './limited'

const turns = async () => {
  for (let i = 0; i < 10; i++) await Promise.resolve()
}

it('carries out so many at once, the first asked first, and goes on when one fails or is stopped', async () => {
  let seed = 7
  const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n
  for (let round = 0; round < 60; round++) {
    const most = 1 + random(4)
    const turn = limited(most)
    const begun: number[] = []
    const ends: (() => void)[] = []
    const stopped = new Set<number>()
    let busy = 0
    const all = Array.from({ length: 12 }, (_, i) => {
      const stop = new AbortController()
      if (random(5) === 0) {
        stopped.add(i)
        stop.abort()
      }
      return turn(stop.signal, async () => {
        begun.push(i)
        expect(++busy).toBeLessThanOrEqual(most)
        await new Promise<void>((end) => ends.push(end))
        busy--
        if (random(4) === 0) throw new Error('it failed')
        return i
      }).then(
        () => 'done',
        (error: Error) => error.message,
      )
    })
    for (let quiet = 0; quiet < 4; quiet++) {
      await turns()
      if (ends.length) quiet = 0
      ends.splice(random(ends.length + 1), 1).forEach((end) => end())
      if (ends.length) quiet = 0
    }
    const told = await Promise.all(all)
    expect(begun).toEqual(Array.from({ length: 12 }, (_, i) => i).filter((i) => !stopped.has(i)))
    told.forEach((what, i) => expect(what === 'done' || what === 'it failed').toBe(!stopped.has(i)))
  }
})
