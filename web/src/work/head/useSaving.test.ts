import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp, effectScope } from 'vue'
import { beforeEach, expect, it, vi } from 'vitest'
import type { Document } from '../../api/client'

interface Asked {
  method: string
  path: string
  key?: string
}
const server = vi.hoisted(() => ({ asked: [] as Asked[], statuses: [] as number[] }))

vi.mock('../../api/client', async (original) => {
  const ask = (method: string) => (path: string, sent?: { params?: { header?: Record<string, string> } }) => {
    server.asked.push({ method, path, key: sent?.params?.header?.['Idempotency-Key'] })
    const status = server.statuses.shift() ?? 200
    if (!status) return Promise.reject(new TypeError('lost'))
    return Promise.resolve({
      data:
        status < 300 ? { key: 'v1', version: 1, owned: true, label: '', mark: '', shares: [] } : undefined,
      error: { detail: 'no' },
      response: new Response(null, { status }),
    })
  }
  return { ...(await original<object>()), api: { POST: ask('POST'), PUT: ask('PUT'), GET: ask('GET') } }
})
const { useSaving } = await import('./useSaving')

const document: Document = { gavrik: 1, records: 'claims', columns: [] }
const labelled = {
  name: 'Claims to chase',
  description: '',
  shares: [],
  label: 'Monday',
  mark: '' as const,
  template: false,
}
const saving = () => {
  const app = createApp({})
  const queryClient = new QueryClient({ defaultOptions: { mutations: { retry: false } } })
  app.use(VueQueryPlugin, { queryClient })
  return app.runWithContext(() => effectScope().run(() => useSaving())!)
}
beforeEach(() => {
  server.asked.length = 0
  server.statuses = []
})

it('makes one view, although the second half of the save failed and it is repeated', async () => {
  const { add } = saving()
  server.statuses = [200, 503]
  await expect(add.mutateAsync({ ...labelled, document })).rejects.toThrow()
  await add.mutateAsync({ ...labelled, document })
  expect(server.asked.map((a) => `${a.method} ${a.path}`)).toEqual([
    'POST /api/views',
    'PUT /api/views/{key}/mark',
    'PUT /api/views/{key}/mark',
  ])
})

it('repeats a save whose answer was lost under the same key, and another one under another', async () => {
  const { add } = saving()
  server.statuses = [0]
  await expect(add.mutateAsync({ ...labelled, label: '', document })).rejects.toThrow()
  await add.mutateAsync({ ...labelled, label: '', document })
  await add.mutateAsync({ ...labelled, label: '', document })
  const [lost, again, another] = server.asked
  expect(again?.key).toBe(lost?.key)
  expect(another?.key).not.toBe(again?.key)
})

it('goes on with a change of a saved view where it stopped, and meets no conflict with itself', async () => {
  const { save } = saving()
  const change = { ...labelled, document, key: 'v1', base: 1 }
  server.statuses = [200, 0]
  await expect(save.mutateAsync(change)).rejects.toThrow()
  await save.mutateAsync(change)
  expect(server.asked.map((a) => `${a.method} ${a.path}`)).toEqual([
    'PUT /api/views/{key}',
    'PUT /api/views/{key}/mark',
    'PUT /api/views/{key}/mark',
  ])
})
