import { effectScope, nextTick, ref } from 'vue'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { Document, Line } from '../api/client'

const asked = vi.hoisted(
  () => [] as { path: string; body: Body; answer: (status: number, data: object) => void }[],
)
interface Body {
  view?: Document
  offset?: number
  result?: string
  toggled?: string[]
}

vi.mock('../session/useMe', () => ({ useMe: () => ({ me: ref(null) }) }))
vi.mock('../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    POST: (path: string, { body, signal }: { body: Body; signal?: AbortSignal }) =>
      new Promise((done, stop) => {
        signal?.addEventListener('abort', () => stop(new DOMException('stopped', 'AbortError')))
        asked.push({
          path,
          body,
          answer: (status, data) =>
            done({
              data: status < 300 ? data : undefined,
              error: data,
              response: new Response(null, { status }),
            }),
        })
      }),
  },
}))
vi.stubGlobal('requestAnimationFrame', () => 0)

const { useRun, pageLines } = await import('./useRun')
const view = (name: string): Document => ({ gavrik: 1, records: name, columns: [] })
const lines = (name: string, from: number): Line[] =>
  Array.from({ length: pageLines }, (_, i) => ({ level: 1, cells: [`${name} ${from + i}`] }))
const result = (name: string, kept = '', asOf = 'monday') => ({
  lines: lines(name, 0),
  above: [],
  total: 1000,
  result: kept,
  version: asOf,
  grand: { level: 0, cells: [] },
  tally: { asOf },
})
const further = (name: string, from: number, asOf = 'monday') => ({
  lines: lines(name, from),
  above: [],
  total: 1000,
  offset: from,
  version: asOf,
  tally: { asOf },
})
/** Lets what was answered be taken. */
const taken = async () => {
  for (let i = 0; i < 10; i++) await nextTick()
}
const scope = { current: effectScope() }
const start = () => {
  const document = ref(view('first'))
  const opening = ref({ depth: 0, toggled: [] as string[] })
  const run = scope.current.run(() => useRun(document, opening, ref(false)))!
  return { document, opening, run }
}
beforeEach(() => {
  asked.length = 0
  scope.current = effectScope()
})
afterEach(() => scope.current.stop())

it('shows the answer to what was asked last, however late another comes', async () => {
  const { document, run } = start()
  document.value = view('second')
  await taken()
  asked[1]!.answer(200, result('second'))
  asked[0]!.answer(200, result('first'))
  await taken()
  expect(run.lineAt(0)?.cells).toEqual(['second 0'])
  expect(run.state.value.kind).toBe('ready')
})

it('keeps what was answered before where the next answer fails, and says why', async () => {
  const { document, run } = start()
  asked[0]!.answer(200, result('first'))
  await taken()
  document.value = view('wrong')
  await taken()
  asked[1]!.answer(422, { detail: 'There is no field “wrong”.' })
  await taken()
  expect(run.lineAt(0)?.cells).toEqual(['first 0'])
  expect(run.state.value).toMatchObject({ kind: 'failed', problem: { status: 422 } })
})

it('draws what is in sight with the answer when a group far down is opened', async () => {
  const { opening, run } = start()
  asked[0]!.answer(200, result('closed', 'r1'))
  await taken()
  run.look(410, 440)
  opening.value = { depth: 0, toggled: ['7'] }
  await taken()
  asked[1]!.answer(200, result('open', 'r2'))
  await taken()
  expect(run.lineAt(0)?.cells, 'nothing is shown before the part in sight is there').toEqual(['closed 0'])
  expect(asked[2]).toMatchObject({ path: '/api/lines', body: { result: 'r2', offset: 400, toggled: ['7'] } })
  asked[2]!.answer(200, further('open', 400))
  await taken()
  expect([run.lineAt(0)?.cells, run.lineAt(410)?.cells]).toEqual([['open 0'], ['open 410']])
})

it('puts no lines of two loads of the records together', async () => {
  const { run } = start()
  asked[0]!.answer(200, result('monday'))
  await taken()
  void run.want(1)
  await taken()
  asked[1]!.answer(200, further('tuesday', 200, 'tuesday'))
  await taken()
  expect(run.lineAt(200)).toBeUndefined()
  expect(asked[2]).toMatchObject({ path: '/api/run', body: { view: view('first') } })
  asked[2]!.answer(200, result('tuesday', '', 'tuesday'))
  await taken()
  expect(run.lineAt(0)?.cells).toEqual(['tuesday 0'])
})

it('reads lines on from a server that has not answered the view before', async () => {
  const { run } = start()
  asked[0]!.answer(200, result('view', 'r1'))
  await taken()
  void run.want(1)
  await taken()
  asked[1]!.answer(410, { detail: 'The result is not kept any more.' })
  await taken()
  expect(asked[2]).toMatchObject({ path: '/api/run', body: { view: view('first'), offset: 200 } })
  asked[2]!.answer(200, further('view', 200))
  await taken()
  expect([run.lineAt(0)?.cells, run.lineAt(200)?.cells]).toEqual([['view 0'], ['view 200']])
  expect(asked, 'what is in sight stays').toHaveLength(3)
})

it('gives paper the first lines only as far as they were read without a gap', async () => {
  const { run } = start()
  asked[0]!.answer(200, result('view', 'r1'))
  await taken()
  void run.want(4) // as after End
  await taken()
  asked[1]!.answer(200, further('view', 800))
  await taken()
  expect(run.rowsRead().at(-1)?.cells).toEqual(['view 999'])
  expect(run.rowsRead(true)).toHaveLength(pageLines)
})
