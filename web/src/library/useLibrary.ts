import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, unwrap, type ViewSummary } from '../api/client'
import { forget, queries } from '../api/queries'
import { download } from '../shell/download'
import { nearest } from '../shell/nearest'

export type Column = 'name' | 'records' | 'owner' | 'label' | 'opened' | 'openedAt' | 'savedAt'

/** All views in one list that is searched, ordered and acted on, several at once. */
export function useLibrary(kind: 'view' | 'board') {
  const client = useQueryClient()
  const views = useQuery(queries.views())
  const bin = useQuery(queries.bin())
  const all = computed(() => (views.data.value?.views ?? []).filter((v) => v.kind === kind))
  const binned = computed(() => (bin.data.value?.views ?? []).filter((v) => v.kind === kind))
  const words = ref('')
  const order = ref<{ by: Column; desc: boolean }>({ by: 'savedAt', desc: true })
  const chosen = ref<ReadonlySet<string>>(new Set())

  const found = computed(() => {
    const list = nearest(words.value, all.value, (v) => ({
      name: v.name,
      path: `${v.records} ${v.label}`,
      key: v.owner,
      meaning: `${v.about} ${v.brief}`,
      values: v.fields,
    }))
    const { by, desc } = order.value
    const key = (v: ViewSummary) => (by === 'opened' ? v.opened : (v[by] ?? ''))
    return list.sort((a, b) => {
      const [x, y] = [key(a), key(b)]
      const c =
        typeof x === 'number' && typeof y === 'number'
          ? x - y
          : String(x).localeCompare(String(y), 'en', { numeric: true })
      return desc ? -c : c
    })
  })
  function orderBy(by: Column) {
    order.value = {
      by,
      desc:
        order.value.by === by ? !order.value.desc : by === 'opened' || by === 'openedAt' || by === 'savedAt',
    }
  }
  function toggle(key: string) {
    const next = new Set(chosen.value)
    if (!next.delete(key)) next.add(key)
    chosen.value = next
  }
  const acted = computed(() => found.value.filter((v) => chosen.value.has(v.key)))
  const own = computed(() => acted.value.filter((v) => v.owned))

  const act = useMutation({
    /** Does one thing to each; what was done stays done where a later one is refused. */
    mutationFn: async (one: {
      views: readonly ViewSummary[]
      does: (v: ViewSummary) => Promise<unknown>
    }) => {
      for (const v of one.views) await one.does(v)
    },
    onSettled: () => {
      chosen.value = new Set()
      void forget(client, 'views', 'favorites', 'bin', 'view')
    },
  })
  /** Writes the chosen views to a file, with the definitions that they use, to be brought in elsewhere. */
  const file = () => download(`/api/view-files?keys=${acted.value.map((v) => v.key).join(',')}`)
  const at = (v: { key: string }) => ({ params: { path: { key: v.key } } })
  return {
    views,
    all,
    binned,
    words,
    order,
    orderBy,
    found,
    chosen,
    toggle,
    own,
    acted,
    act,
    download: file,
    duplicate: () =>
      act.mutate({
        views: acted.value,
        does: async (v) => {
          const whole = await unwrap(api.GET('/api/views/{key}', at(v)))
          await unwrap(
            api.POST('/api/views', {
              body: {
                name: `${whole.name.slice(0, 110)}, copy`,
                description: whole.description,
                document: whole.document,
              },
            }),
          )
        },
      }),
    rename: (name: string) =>
      act.mutate({
        views: own.value.slice(0, 1),
        does: async (v) => {
          const { document, description, version } = await unwrap(api.GET('/api/views/{key}', at(v)))
          await unwrap(
            api.PUT('/api/views/{key}', { ...at(v), body: { name, description, document, base: version } }),
          )
        },
      }),
    label: (label: string) =>
      act.mutate({
        views: own.value,
        does: (v) =>
          unwrap(
            api.PUT('/api/views/{key}/mark', {
              ...at(v),
              body: { label, mark: v.mark, template: v.template },
            }),
          ),
      }),
    toBin: () => act.mutate({ views: own.value, does: (v) => unwrap(api.DELETE('/api/views/{key}', at(v))) }),
    back: (key: string) =>
      act.mutate({
        views: [{ key } as ViewSummary],
        does: () => unwrap(api.POST('/api/bin/{key}', at({ key }))),
      }),
    forever: (key: string) =>
      act.mutate({
        views: [{ key } as ViewSummary],
        does: () => unwrap(api.DELETE('/api/bin/{key}', at({ key }))),
      }),
  }
}
