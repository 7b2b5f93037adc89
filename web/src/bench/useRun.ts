import { onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { askFrozen, type Frozen } from '../api/frozen'
import { api, unwrap, type Document, type Line, type Lines, type RunResult } from '../api/client'
import { Problem, wordsOf } from '../api/problem'
import { useMe } from '../session/useMe'
import { newerCells, type Newer } from './ledger/newer'

/** Lines are read from the server in pages of this many. */
export const pageLines = 200

/** How long what has changed is marked, in milliseconds. */
const marked = 4_000

/** The status of a question that was stopped by the one who asked it. */
export const stopped = 499

/** How long a server that does not answer is left in peace, in milliseconds. */
const patience = 2_000

/** Which groups are open: a depth, and the groups that are the other way round. */
export interface Opening {
  depth: number
  toggled: readonly string[]
}

/** What could not be read is left out; what was stopped stays stopped. */
function unlessStopped(error: unknown): undefined {
  if (error instanceof DOMException && error.name === 'AbortError') throw error
}

const gone = (error: unknown) => error instanceof Problem && error.status === 410

/** A result that is not kept is no fault: there is another way to its lines. */
function unlessGone(error: unknown): undefined {
  if (!gone(error)) throw error
}

/** Notes the moment at which an answer is on the screen, for measurements from outside. */
function markPainted() {
  requestAnimationFrame(() =>
    setTimeout(() => {
      performance.clearMarks('gavrik painted')
      performance.mark('gavrik painted')
    }),
  )
}

// failed: the last good result stays on screen, and the words say what to mend
export type RunState = { kind: 'ready' } | { kind: 'running' } | { kind: 'failed'; problem: Problem }

/**
 * The answer to a document, followed as it changes. What was answered last stays
 * until the next answer is there: a screen is never blanked.
 */
export function useRun(
  document: Ref<Document>,
  opening: Ref<Opening>,
  waiting: Ref<boolean>,
  /** What answers in place of the records as they are. */
  frozen?: Frozen,
) {
  const result = shallowRef<RunResult | null>(null)
  const pages = shallowRef<ReadonlyMap<number, Line[]>>(new Map())
  const above = shallowRef<ReadonlyMap<number, Line[]>>(new Map())
  const state = ref<RunState>({ kind: 'running' })
  const { me } = useMe()
  let latest = new AbortController()
  let wanted = new Set<number>()
  /** What the server calls the result, as long as it keeps it. */
  let kept = ''
  let again: ReturnType<typeof setTimeout> | undefined
  /** The view that the lines here are of. */
  let answered: Document | undefined

  const opened = () => ({ depth: opening.value.depth, toggled: [...opening.value.toggled] })

  async function answer(signal: AbortSignal, anew: boolean): Promise<RunResult> {
    return unwrap(
      api.POST('/api/run', {
        headers: askFrozen(frozen),
        signal,
        body: { shown: true, view: document.value, ...opened(), limit: pageLines, anew: anew || undefined },
      }),
    )
  }

  /**
   * Further lines of the result that is shown. Nothing is run again for them where the server has kept it; else, as on
   * another server, the view is run there, and its lines are taken if it says the same.
   */
  async function further(
    offset: number,
    limit: number,
    plain: boolean,
    signal?: AbortSignal,
    of = result.value,
  ): Promise<Lines> {
    const part = { ...opened(), offset, limit, plain }
    const headers = askFrozen(frozen)
    if (kept) {
      const body = { result: kept, ...part }
      const got = await unwrap(api.POST('/api/lines', { headers, signal, body })).catch(unlessGone)
      if (got) return got
    }
    const body = { shown: true, view: document.value, ...part }
    const got = await unwrap(api.POST('/api/run', { headers, signal, body }))
    // Records have changed meanwhile: lines of two answers are not put together.
    if (got.version !== of?.version) throw new Problem(410, 'The records have changed.')
    return got
  }

  /** Runs the view again if records have changed meanwhile; whether that was so. */
  async function renewed(error: unknown): Promise<boolean> {
    if (!gone(error)) return false
    // Two servers may be apart for a moment: they are not asked without end meanwhile.
    const soon = Date.now() - renewedAt < patience
    renewedAt = Date.now()
    if (soon) await new Promise((done) => setTimeout(done, patience))
    await run()
    return state.value.kind !== 'failed'
  }
  let renewedAt = 0

  function fail(error: unknown) {
    if (error instanceof DOMException && error.name === 'AbortError') return
    const problem = error instanceof Problem ? error : new Problem(0, wordsOf(error))
    state.value = { kind: 'failed', problem }
    // A server that is restarted comes back; nobody should have to press anything.
    if (problem.status === 0) again = setTimeout(() => void run(), patience)
  }

  /** The pages in sight but for the first, which comes with every answer. */
  let seen: readonly number[] = []
  /** Says which lines are in sight, from one position up to another, left out. */
  function look(from: number, to: number) {
    const first = Math.floor(from / pageLines)
    const last = Math.floor(Math.max(from, to - 1) / pageLines)
    seen = Array.from({ length: last - first + 1 }, (_, i) => first + i).filter((page) => page > 0)
  }

  /** Runs the view; anew asks databases again, too, in which records stay. */
  async function run(anew = false) {
    clearTimeout(again)
    latest.abort()
    if (waiting.value) return void (state.value = { kind: 'ready' }) // a required question has no answer yet
    latest = new AbortController()
    const { signal } = latest
    state.value = { kind: 'running' }
    try {
      const sameView = answered === document.value
      const got = await answer(signal, anew)
      kept = got.result
      // Groups were opened or closed far down: what is in sight is drawn at once, never blank.
      const parts = new Map<number, Lines>([[0, got]])
      for (const page of sameView ? seen : [])
        if (page * pageLines < got.total) {
          const part = await further(page * pageLines, pageLines, false, signal, got).catch(unlessStopped)
          if (part) parts.set(page, part) // else it is asked for again while it is in sight
        }
      const lines = [got.grand, ...[...parts.values()].flatMap((part) => part.lines)]
      mark(sameView && result.value?.version !== got.version ? lines : [])
      answered = document.value
      wanted = new Set(parts.keys())
      result.value = got
      pages.value = new Map([...parts].map(([page, part]) => [page, part.lines]))
      above.value = new Map([...parts].map(([page, part]) => [page, part.above]))
      state.value = { kind: 'ready' }
      markPainted()
    } catch (error) {
      fail(error)
    }
  }

  /** Ends what is under way; what was answered before stays on the screen. */
  function stop() {
    clearTimeout(again)
    latest.abort()
    const words = result.value
      ? 'Stopped. What is below is the answer before.'
      : 'Stopped; there is no answer yet.'
    state.value = { kind: 'failed', problem: new Problem(stopped, words) }
  }

  /** Marks for a moment what is another than on the screen, where newer records say something else. */
  const newer = shallowRef<Newer>(new Map())
  let fading: ReturnType<typeof setTimeout> | undefined
  function mark(lines: readonly Line[]) {
    clearTimeout(fading)
    const old = result.value
    const read = rowsRead()
    newer.value =
      old && lines.length ? newerCells([old.grand, ...read], lines, read.length === old.total) : new Map()
    if (newer.value.size) fading = setTimeout(() => (newer.value = new Map()), marked)
  }

  /** Reads a page that is about to be seen. */
  async function want(page: number) {
    if (wanted.has(page) || state.value.kind === 'running') return
    wanted.add(page)
    const { signal } = latest
    try {
      const got = await further(page * pageLines, pageLines, false, signal)
      pages.value = new Map(pages.value).set(page, got.lines)
      above.value = new Map(above.value).set(page, got.above)
    } catch (error) {
      wanted.delete(page)
      if (!(await renewed(error))) fail(error) // else the page is asked for again while it is in sight
    }
  }

  /** The line at a position, if its page is here. */
  function lineAt(index: number): Line | undefined {
    return pages.value.get(Math.floor(index / pageLines))?.[index % pageLines]
  }

  /** Lines as other programs read them, from one position up to another, left out. */
  async function plainLines(from: number, to: number): Promise<Line[]> {
    const out: Line[] = []
    try {
      while (out.length < to - from) {
        const got = await further(from + out.length, Math.min(1000, to - from - out.length), true)
        if (!got.lines.length) break
        out.push(...got.lines)
      }
    } catch (error) {
      if (!(await renewed(error))) throw error
      return plainLines(from, to) // lines of two results are not put together
    }
    return out
  }

  /** The lines of the pages that are here, in order; with first, up to the first page that is not. */
  function rowsRead(first = false): Line[] {
    const read = [...pages.value.keys()].sort((a, b) => a - b)
    const whole = first ? read.filter((page, i) => page === i) : read
    return whole.flatMap((page) => pages.value.get(page) ?? [])
  }

  /** The position of a record's line, if its page is here; -1 otherwise. */
  function rowOf(record: string): number {
    for (const [page, lines] of pages.value) {
      const at = lines.findIndex((l) => l.record === record)
      if (at >= 0) return page * pageLines + at
    }
    return -1
  }

  /** The groups that the line at a position lies in, the outermost first. */
  function groupsAbove(index: number): Line[] {
    const page = Math.floor(index / pageLines)
    const lines = pages.value.get(page)
    const at = lines?.[index % pageLines]
    if (!lines || !at) return []
    const found: Line[] = []
    let level = at.level
    for (let i = (index % pageLines) - 1; i >= 0 && level > 1; i--) {
      const line = lines[i]
      if (line && line.level < level) {
        found.unshift(line)
        level = line.level
      }
    }
    const outer = (above.value.get(page) ?? []).filter((l) => l.level < level)
    return [...outer, ...found]
  }

  watch([document, opening, waiting], () => run(), { immediate: true, flush: 'post' })
  watch(me, (now) => {
    if (now && state.value.kind === 'failed' && state.value.problem.status === 401) void run()
  })
  onScopeDispose(() => {
    latest.abort()
    clearTimeout(again)
    clearTimeout(fading)
  })
  return {
    result,
    newer,
    state,
    want,
    look,
    lineAt,
    plainLines,
    rowsRead,
    rowOf,
    groupsAbove,
    again: run,
    stop,
  }
}

export type Run = ReturnType<typeof useRun>
