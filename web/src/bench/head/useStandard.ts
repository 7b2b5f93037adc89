import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap, type Document } from '../../api/client'
import { wordsOf } from '../../api/problem'
import { forget, queries } from '../../api/queries'
import type { MenuSection } from '../../shell/ActionMenu.vue'
import type { Bench } from '../bench'
import { makes } from '../derivedFields'

/** For administrators: makes what is on the bench the start of all new views of the record set. */
export function useStandard({ set, history, say }: Bench) {
  const client = useQueryClient()
  // The bench keeps what it was opened with; what is standard may have changed since.
  const catalog = useQuery(queries.catalog())
  const now = computed(() => catalog.data.value?.sets.find((s) => s.key === set.key) ?? set)
  async function put(what: { columns?: string[]; view?: Document }, said: string) {
    try {
      await unwrap(api.PUT('/api/catalog/{set}/standard', { params: { path: { set: set.key } }, body: what }))
      await forget(client, 'catalog')
      say(said)
    } catch (cause) {
      say(wordsOf(cause))
    }
  }
  const stored = computed(() => {
    const made = new Set(makes(history.kept.value).map((m) => m.key))
    return history.kept.value.columns.map((c) => c.field).filter((path) => !made.has(path))
  })
  const many = set.label.toLowerCase()
  return computed<MenuSection>(() => ({
    heading: `Everybody’s new views of ${many} start with`,
    acts: [
      {
        id: 'standard-columns',
        title: 'These columns',
        run: () =>
          put({ columns: stored.value, view: now.value.start }, `New views of ${many} have these columns.`),
      },
      {
        id: 'standard-view',
        title: 'All of this view',
        run: () =>
          put(
            { columns: now.value.own ? now.value.standard : undefined, view: history.kept.value },
            `New views of ${many} start as this one stands now.`,
          ),
      },
      ...(now.value.own || now.value.start
        ? [
            {
              id: 'standard-none',
              title: 'What the database suggests',
              run: () => put({}, `New views of ${many} start as the database suggests.`),
            },
          ]
        : []),
    ],
  }))
}
