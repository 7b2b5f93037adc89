import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { making, putAway, stop, take } from './making'

/** An address that tells how far a file is, as the test says. */
class Told extends EventTarget {
  static readonly CLOSED = 2
  static last: Told
  readyState = 1
  onerror: (() => void) | null = null
  constructor(readonly url: string) {
    super()
    Told.last = this
  }
  close() {
    this.readyState = Told.CLOSED
  }
  say(event: string, data: unknown) {
    this.dispatchEvent(new MessageEvent(event, { data: JSON.stringify(data) }))
  }
}

const requests = vi.hoisted<string[]>(() => [])
vi.mock('../api/client', () => {
  const asked = (method: string, body: unknown) => async (path: string) => {
    requests.push(`${method} ${path}`)
    return body
  }
  return {
    api: {
      POST: async (path: string) => {
        requests.push(`POST ${path}`)
        const n = requests.filter((r) => r.startsWith('POST')).length
        return { id: `x${n}`, name: 'Claims.csv', lines: 4000 }
      },
      DELETE: asked('DELETE', undefined),
    },
    unwrap: (answer: Promise<unknown>) => answer,
  }
})
const kept: string[] = []
beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('EventSource', Told)
  vi.stubGlobal('document', {
    createElement: () => ({
      href: '',
      download: '',
      click(this: { download: string }) {
        kept.push(this.download)
      },
    }),
  })
  requests.length = kept.length = 0
})
afterEach(() => {
  for (const m of [...making]) putAway(m)
  vi.unstubAllGlobals()
  vi.useRealTimers()
})
const begin = () => take({ name: 'Claims', options: { format: 'csv' } })

describe('a file that is made', () => {
  it('says how far it is once that takes long, and is given to the browser once', async () => {
    const one = await begin()
    expect([one.state, one.slow]).toEqual(['making', false])
    vi.advanceTimersByTime(1000)
    Told.last.say('progress', { done: 1024, bytes: 9000 })
    expect([one.slow, one.done, one.bytes]).toEqual([true, 1024, 9000])
    Told.last.say('ready', { bytes: 30000 })
    expect([one.state, kept]).toEqual(['taken', ['Claims.csv']])
    expect(Told.last.readyState).toBe(Told.CLOSED)
    vi.advanceTimersByTime(5000)
    expect(making).toEqual([])
  })
  it('is stopped here and on the server', async () => {
    const one = await begin()
    stop(one)
    await vi.runAllTimersAsync()
    expect(requests).toEqual(['POST /api/exports', 'DELETE /api/exports/{id}'])
    expect([making.length, kept.length, Told.last.readyState]).toEqual([0, 0, Told.CLOSED])
  })
  it('says why it will never be, and stays until that was read', async () => {
    const one = await begin()
    Told.last.say('failed', { detail: 'The file would be larger than 2 GB.' })
    vi.advanceTimersByTime(60_000)
    expect([one.state, one.trouble, kept.length, making.length]).toEqual([
      'failed',
      'The file would be larger than 2 GB.',
      0,
      1,
    ])
  })
  it('is begun again where its server has ended, but not without end', async () => {
    const one = await begin()
    for (let n = 2; n <= 3; n++) {
      Told.last.say('failed', { detail: 'The server has ended.', again: true })
      await vi.runAllTimersAsync()
      expect([one.state, Told.last.url]).toEqual(['making', `/api/exports/x${n}/progress`])
    }
    Told.last.say('failed', { detail: 'The server has ended.', again: true })
    expect([one.state, one.trouble]).toEqual(['failed', 'The server has ended.'])
  })
  it('takes a lost line up again, and asks on where it is refused, but not without end', async () => {
    const one = await begin()
    Told.last.readyState = 0
    Told.last.onerror?.()
    expect(one.state).toBe('making')
    for (let n = 1; n < 15; n++) {
      Told.last.readyState = Told.CLOSED
      Told.last.onerror?.()
      expect(one.state).toBe('making')
      vi.advanceTimersByTime(2000)
      expect(Told.last.readyState).toBe(1)
    }
    Told.last.readyState = Told.CLOSED
    Told.last.onerror?.()
    expect(one.state).toBe('failed')
  })
})
