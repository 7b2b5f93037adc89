import { describe, expect, it } from 'vitest'
import type { Document } from '../../api/client'
import type { Step } from '../useHistory'
import { DraftQueue, type DraftName, type Written } from './draftQueue'

const step = (key: string): Step => ({ key, document: { gavrik: 1, records: key, columns: [] } as Document })

/** A server of drafts, and a browser's store, with answers that come when they are let. */
class World {
  drafts = new Map<string, { state: string; revision: number }>()
  states = new Set<string>()
  stashed = new Map<string, string>()
  dropped: string[] = []
  /** The answers to give; 'taken' when there are none. */
  answers: Written['kind'][] = []
  /** Holds every call until it is let go. */
  held: (() => void)[] | null = null
  private ids = 0

  private gate = () => (this.held ? new Promise<void>((go) => this.held!.push(go)) : Promise.resolve())

  put = async (draft: DraftName, s: Step): Promise<Written> => {
    await this.gate()
    const wanted = this.answers.shift() ?? 'taken'
    if (wanted !== 'taken') return { kind: wanted } as Written
    const there = this.drafts.get(draft.id)
    if ((there?.revision ?? 0) !== draft.revision) return { kind: 'stale' }
    this.states.add(s.key)
    this.drafts.set(draft.id, { state: s.key, revision: draft.revision + 1 })
    return { kind: 'taken', revision: draft.revision + 1 }
  }
  drop = async (draft: DraftName) => {
    await this.gate()
    this.drafts.delete(draft.id)
    this.dropped.push(draft.id)
  }
  pause = () => this.gate()
  freshId = () => `fresh ${this.ids++}`
  stash = (draft: string, s: Step) => void this.stashed.set(draft, s.key)
  unstash = (draft: string) => void this.stashed.delete(draft)

  hold() {
    this.held = []
  }
  async letGo() {
    for (let quiet = 0; quiet < 5; quiet++) {
      const go = this.held?.splice(0) ?? []
      if (go.length) quiet = 0
      go.forEach((f) => f())
      await turns()
    }
  }
  /** The newest states of all drafts. */
  get kept() {
    return [...this.drafts.values()].map((d) => d.state)
  }
}

/** Lets everything go on that waits for nothing but its turn. */
async function turns() {
  for (let i = 0; i < 20; i++) await Promise.resolve()
}

describe('DraftQueue', () => {
  it('keeps every step under its address, and the last as the draft', async () => {
    const w = new World()
    const told: boolean[] = []
    const q = new DraftQueue({ id: 'mine', revision: 0 }, w, (safe) => told.push(safe))
    q.put(step('a'))
    q.put(step('b'))
    expect(w.stashed.get('mine')).toBe('b')
    await q.settled()
    expect([...w.states]).toEqual(['a', 'b'])
    expect(w.kept).toEqual(['b'])
    expect(w.stashed.size).toBe(0)
    expect(told.at(-1)).toBe(true)
  })

  it('undo to the start and redo, whenever they come, leave the draft as it is', async () => {
    for (const moment of ['before', 'during', 'after'] as const) {
      const w = new World()
      w.hold()
      const q = new DraftQueue({ id: 'mine', revision: 0 }, w)
      q.put(step('a'))
      if (moment !== 'before') await turns()
      if (moment === 'after') await w.letGo()
      q.drop()
      q.put(step('a'))
      await w.letGo()
      expect(w.kept, moment).toEqual(['a'])
      expect(w.dropped, moment).toEqual([])
      expect(w.stashed.size, moment).toBe(0)
    }
  })

  it('a change made while a save is under way is kept, and only it', async () => {
    const w = new World()
    const q = new DraftQueue({ id: 'mine', revision: 0 }, w)
    q.put(step('saved'))
    await q.settled()
    q.put(step('later')) // while the save is under way
    q.drop() // the save was answered …
    q.put(step('later')) // … and the newest step is not what it saved
    await q.settled()
    expect(w.kept).toEqual(['later'])
  })

  it('dropping forgets the draft on the server and in the browser', async () => {
    const w = new World()
    const q = new DraftQueue({ id: 'mine', revision: 0 }, w)
    q.put(step('a'))
    q.drop()
    expect(w.stashed.size).toBe(0)
    await q.settled()
    expect(w.kept).toEqual([])
    expect(w.dropped).toEqual(['mine'])
    q.put(step('b')) // a draft of its own
    await q.settled()
    expect(w.kept).toEqual(['b'])
    expect(w.drafts.has('mine')).toBe(false)
  })

  it('goes on beside another tab with a draft of its own', async () => {
    const w = new World()
    w.drafts.set('mine', { state: 'theirs', revision: 4 })
    const q = new DraftQueue({ id: 'mine', revision: 3 }, w)
    q.put(step('a'))
    await q.settled()
    expect(w.kept.sort()).toEqual(['a', 'theirs'])
  })

  it('waits for a silent server, and keeps in the browser what it has not taken when the screen is left', async () => {
    const w = new World()
    w.answers = ['silent', 'silent']
    const q = new DraftQueue({ id: 'mine', revision: 0 }, w)
    q.put(step('a'))
    await q.settled()
    expect(w.kept).toEqual(['a'])
    w.answers = ['silent']
    q.put(step('b'))
    q.close()
    await q.settled()
    expect(w.kept).toEqual(['a'])
    expect([...w.stashed.values()]).toEqual(['b'])
  })

  it('what cannot be kept holds up nothing', async () => {
    const w = new World()
    w.answers = ['refused']
    const q = new DraftQueue({ id: 'mine', revision: 0 }, w)
    q.put(step('a'))
    q.put(step('b'))
    await q.settled()
    expect(w.kept).toEqual(['b'])
  })

  it('ends, after any acts at any time, with the last thing that was done', async () => {
    let seed = 1
    const random = (n: number) => (seed = (seed * 48271) % 2147483647) % n
    for (let round = 0; round < 300; round++) {
      const w = new World()
      w.hold()
      const q = new DraftQueue({ id: 'mine', revision: 0 }, w)
      let last: string | null = null
      for (let act = 0; act < 8; act++) {
        switch (random(5)) {
          case 0:
            q.drop()
            last = null
            break
          case 1:
            await w.letGo()
            break
          case 2:
            if (random(3) === 0)
              w.answers.push(['silent', 'refused', 'stale'][random(2) * 2]! as Written['kind'])
            break
          default:
            last = `${round} ${act}`
            q.put(step(last))
        }
      }
      await w.letGo()
      expect(w.kept.includes(last ?? 'nothing'), `round ${round}`).toBe(last !== null)
      expect(w.stashed.size).toBe(0)
    }
  })
})
