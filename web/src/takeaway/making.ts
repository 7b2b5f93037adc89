import { reactive } from 'vue'
import { askFrozen, type Frozen } from '../api/frozen'
import { api, unwrap, type Schemas } from '../api/client'
import { wordsOf } from '../api/problem'
import { download } from '../shell/download'

/** A file that is being made on the server, from the button until the browser has it. */
export interface Making {
  id: string
  name: string
  lines: number
  done: number
  bytes: number
  state: 'making' | 'taken' | 'failed'
  /** Why it failed. */
  trouble: string
  /** It takes long enough to be told of. */
  slow: boolean
}

/** All files that are being made, of every screen: one goes on while another is worked at. */
export const making = reactive<Making[]>([])

/** After how long it is told how far a file is, and how long it stands there that it was taken. */
const told = 1000
const stays = 5000

export type ExportBody = Schemas['ExportInputBody']

/**
 * Begins to make a file and, once it is there, gives it to the browser to keep. What is wrong with the
 * request itself is thrown; what goes wrong later stands among what is made.
 */
export function take(body: ExportBody, frozen?: Frozen): Promise<Making> {
  return begun(() => unwrap(api.POST('/api/exports', { headers: askFrozen(frozen), body })))
}

/** The same for a board on paper. */
export function takeBoard(body: Schemas['BoardTaking']): Promise<Making> {
  return begun(() => unwrap(api.POST('/api/boards/paper', { body })))
}

type Begin = () => Promise<Schemas['ExportOutputBody']>

async function begun(begin: Begin): Promise<Making> {
  making.push(fresh(await begin()))
  const one = making.at(-1)!
  setTimeout(() => (one.slow = true), told)
  follow(one, begin, () => keep(one))
  return one
}

const fresh = ({ id, name, lines }: Schemas['ExportOutputBody']): Making => ({
  id,
  name,
  lines,
  done: 0,
  bytes: 0,
  state: 'making',
  trouble: '',
  slow: false,
})

/** The text of a file that is made and read at once, as the clipboard takes it. */
export async function read(body: ExportBody, frozen?: Frozen): Promise<string> {
  const begin: Begin = () => unwrap(api.POST('/api/exports', { headers: askFrozen(frozen), body }))
  const one = fresh(await begin())
  await new Promise<void>((done) => follow(one, begin, done))
  if (one.trouble) throw new Error(one.trouble)
  const answer = await fetch(fileOf(one))
  const text = await answer.text()
  drop(one)
  return text
}

const fileOf = (one: Making) => `/api/exports/${one.id}/file`

/** How often a file is begun again whose server has ended, and a server is asked again that refuses to tell. */
const tries = 3
const asks = 15
const apart = 2000

/**
 * Follows how far a file is; ended is called once it is ready or has failed. One whose server ends meanwhile is
 * begun again, at another or at the same once it is back.
 */
function follow(one: Making, begin: Begin, ended: () => void) {
  let begun = 1
  let refused = 0
  let events: EventSource
  let stopped = false
  const end = (trouble: string) => {
    events.close()
    one.trouble = trouble
    if (trouble) one.state = 'failed'
    ended()
  }
  async function again() {
    events.close()
    begun++
    try {
      const next = await begin()
      if (stopped) return drop({ ...one, id: next.id })
      stoppers.delete(one.id)
      Object.assign(one, { id: next.id, done: 0, bytes: 0 })
      listen()
    } catch (problem) {
      end(wordsOf(problem))
    }
  }
  function listen() {
    if (stopped) return
    events = new EventSource(`/api/exports/${one.id}/progress`)
    stoppers.set(one.id, () => {
      stopped = true
      events.close()
    })
    events.addEventListener('progress', (event: MessageEvent<string>) => {
      const told = JSON.parse(event.data) as Schemas['ExportProgress']
      one.done = told.done
      one.bytes = told.bytes
    })
    events.addEventListener('ready', () => end(''))
    events.addEventListener('failed', (event: MessageEvent<string>) => {
      const why = JSON.parse(event.data) as Schemas['ExportFailed']
      if (why.again && begun < tries) void again()
      else end(why.detail)
    })
    events.onerror = () => {
      // A lost line is taken up again by the browser; one that is refused, as by a server that starts, is not.
      if (events.readyState !== EventSource.CLOSED) return
      if (++refused < asks) setTimeout(listen, apart)
      else end('The server does not answer any more. Take it again.')
    }
  }
  listen()
}
const stoppers = new Map<string, () => void>()

/** Gives a ready file to the browser. */
function keep(one: Making) {
  stoppers.delete(one.id)
  if (one.state === 'failed') return
  download(fileOf(one), one.name)
  one.state = 'taken'
  setTimeout(() => putAway(one), stays)
}

/** Takes it out of sight. */
export function putAway(one: Making) {
  const at = making.findIndex((m) => m.id === one.id)
  if (at >= 0) making.splice(at, 1)
}

/** Stops making a file. */
export function stop(one: Making) {
  stoppers.get(one.id)?.()
  stoppers.delete(one.id)
  putAway(one)
  drop(one)
}

function drop(one: Making) {
  void unwrap(api.DELETE('/api/exports/{id}', { params: { path: { id: one.id } } })).catch(
    (problem: unknown) => console.warn(wordsOf(problem)),
  )
}
