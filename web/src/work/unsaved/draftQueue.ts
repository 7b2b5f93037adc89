import type { Content } from '../../api/client'
import type { Step } from '../useHistory'

/** A draft on the server: its writes are counted, and a write names the count it was made from. */
export interface DraftName {
  id: string
  revision: number
}

/** What the server made of a write. */
export type Written =
  | { kind: 'taken'; revision: number }
  // another tab has gone on with this draft
  | { kind: 'stale' }
  // it can be worked on, and not kept
  | { kind: 'refused' }
  | { kind: 'silent' }

/** How a queue reaches the world. Nothing of it throws. */
export interface Transport<D extends Content = Content> {
  put(draft: DraftName, step: Step<D>): Promise<Written>
  drop(draft: DraftName): Promise<void>
  /** Waits before the first write of a burst, or until a silent server may be asked again. */
  pause(why: 'courtesy' | 'silence'): Promise<void>
  freshId(): string
  /** Keeps in the browser what the server has not taken yet, and forgets it once it has. */
  stash(draft: string, step: Step<D>): void
  unstash(draft: string): void
}

type Entry<D extends Content> = { kind: 'put'; step: Step<D> } | { kind: 'drop' }

/**
 * Unsaved work on its way to the server: a queue of steps that are put and of drops, carried out
 * one after the other in the order they were made. Undo, redo, Save, a second tab, a lost
 * connection and leaving the screen are all cases of it. A drop that is followed by a put is
 * not carried out at all: the work goes on.
 */
export class DraftQueue<D extends Content = Content> {
  private entries: Entry<D>[] = []
  private working: Promise<void> | null = null
  private closed = false

  constructor(
    private draft: DraftName,
    private readonly transport: Transport<D>,
    /** Told whenever the newest state becomes safe on the server, or is not yet. */
    private readonly told: (safe: boolean) => void = () => undefined,
  ) {}

  get name(): DraftName {
    return { ...this.draft }
  }

  /** A step was made, or come back to. */
  put(step: Step<D>) {
    this.transport.stash(this.draft.id, step)
    this.add({ kind: 'put', step })
  }

  /** There is nothing unsaved any more. */
  drop() {
    this.transport.unstash(this.draft.id)
    this.add({ kind: 'drop' })
  }

  /** The screen is left: what is under way is finished, but a silent server is not waited for. */
  close() {
    this.closed = true
  }

  /** Everything in the queue has been carried out. */
  async settled() {
    while (this.working) await this.working
  }

  private add(entry: Entry<D>) {
    this.told(false)
    this.entries.push(entry)
    this.working ??= this.work().finally(() => (this.working = null))
  }

  private async work() {
    await this.transport.pause('courtesy')
    for (let entry = this.entries[0]; entry; entry = this.entries[0]) {
      const done = entry.kind === 'put' ? await this.carryOut(entry.step) : await this.carryOutDrop()
      if (!done) return // what is left stays in the browser until this bench is opened again
      this.entries.shift()
    }
    this.told(true)
  }

  private async carryOut(step: Step<D>): Promise<boolean> {
    for (let stale = 0; ;) {
      const got = await this.transport.put(this.draft, step)
      switch (got.kind) {
        case 'taken':
          this.draft = { ...this.draft, revision: got.revision }
          if (!this.entries.some((e, i) => i > 0 && e.kind === 'put')) this.transport.unstash(this.draft.id)
          return true
        case 'stale':
          if (stale++ > 4) return true // it stays in the browser
          this.renew()
          break
        case 'refused':
          return true // it stays in the browser
        case 'silent':
          if (this.closed) return false
          await this.transport.pause('silence')
      }
    }
  }

  private async carryOutDrop(): Promise<boolean> {
    if (this.entries.some((e, i) => i > 0 && e.kind === 'put')) return true
    const { draft } = this
    this.renew()
    if (draft.revision) await this.transport.drop(draft)
    return true
  }

  /** What comes next is a draft of its own. */
  private renew() {
    const waiting = this.entries.findLast((e) => e.kind === 'put')
    this.transport.unstash(this.draft.id)
    this.draft = { id: this.transport.freshId(), revision: 0 }
    if (waiting?.kind === 'put') this.transport.stash(this.draft.id, waiting.step)
  }
}
