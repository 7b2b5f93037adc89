import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import type { Document } from '../api/client'
import { queries } from '../api/queries'
import { plainColumns } from '../bench/document'
import { useFields } from '../bench/useFields'

/** One record with its fields and the names of the records it links to. */
export function useRecord(set: Ref<string>, key: Ref<string>) {
  const catalog = useQuery(queries.catalog())
  const sets = computed(() => new Map((catalog.data.value?.sets ?? []).map((s) => [s.key, s])))
  const here = computed(() => sets.value.get(set.value))
  const { fields } = useFields(set)
  /** Its own fields, keys of the database last. */
  const own = computed(() =>
    fields.value
      .filter((f) => f.way.length === 0 && f.kind !== 'per_total' && !f.hidden)
      .sort((a, b) => Number(!!a.technical) - Number(!!b.technical)),
  )
  /** Records that this one links to, by their name and by what they are opened by. */
  const links = computed(() =>
    (here.value?.links ?? [])
      .filter((l) => !l.hidden)
      .map((l) => ({
        ...l,
        name: `${l.key}.${sets.value.get(l.to)?.name}`,
        address: `${l.key}.${sets.value.get(l.to)?.address}`,
      })),
  )
  const paths = computed(() => [
    ...new Set([...own.value.map((f) => f.path), ...links.value.flatMap((l) => [l.name, l.address])]),
  ])
  const view = computed<Document>(() => ({
    gavrik: 1,
    records: set.value,
    columns: plainColumns(paths.value),
    filter: { all: [{ field: here.value?.address, op: 'is', value: key.value }] },
  }))
  const run = useQuery(
    computed(() =>
      queries.run(
        `${set.value} ${key.value}`,
        { view: view.value, depth: 0, limit: 1 },
        !!here.value?.address && own.value.length > 0,
      ),
    ),
  )
  const line = computed(() => run.data.value?.lines[0])
  const cell = (path: string) => line.value?.cells[paths.value.indexOf(path)] ?? ''
  const title = computed(() => (here.value ? cell(here.value.name) || key.value : key.value))
  return { catalog, sets, here, own, links, run, line, cell, title }
}
