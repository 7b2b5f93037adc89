<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, unwrap } from '../api/client'
import { forget, offeredSets, queries } from '../api/queries'
import { Problem, wordsOf } from '../api/problem'
import {
  mapped,
  mappedDefinition,
  missing,
  readViewFile,
  unknowns,
  type FiledDefinition,
  type ViewFile,
} from './bringing'

/**
 * Brings views in from a file, one after the other, with the definitions that they use. Fields that are not
 * here can be told by their names here; what is wrong beyond that is said, and that view is not saved.
 */
const client = useQueryClient()
const rest = ref<ViewFile['views']>([])
const read = computed(() => rest.value[0] ?? null)
const definitions = ref<FiledDefinition[]>([])
const names = ref<ReadonlyMap<string, string>>(new Map())
/** Definitions that are otherwise here, in words. */
const otherwise = ref('')

const bring = useMutation({
  mutationFn: async () => {
    await define()
    while (read.value) {
      const { name, description, document } = read.value
      await unwrap(
        api.POST('/api/views', { body: { name, description, document: mapped(document, names.value) } }),
      )
      rest.value = rest.value.slice(1)
    }
  },
  onSettled: () => forget(client, 'views', 'definitions', 'fields'),
})
/** Shares what the views are made of, and is not here; what is made of others comes after these. */
async function define() {
  let left = definitions.value
  while (left.length) {
    const later: FiledDefinition[] = []
    let trouble: unknown
    for (const d of left)
      await unwrap(api.POST('/api/definitions', { body: mappedDefinition(d, names.value) })).catch(
        (e: unknown) => {
          trouble = e
          later.push(d)
        },
      )
    definitions.value = later
    if (later.length === left.length) throw trouble
    left = later
  }
}
const trouble = ref('')
async function choose(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  trouble.value = ''
  bring.reset()
  names.value = new Map()
  try {
    const got = readViewFile(await file.text(), file.name)
    const here = await client.fetchQuery(queries.definitions())
    const split = missing(got.definitions, here.definitions)
    rest.value = got.views
    definitions.value = split.missing
    otherwise.value = split.otherwise.map((d) => d.calculated?.label ?? d.bucket?.label ?? '').join(', ')
  } catch (problem) {
    trouble.value = problem instanceof Problem ? wordsOf(problem) : `${file.name} is no view: it is not JSON.`
    return
  }
  bring.mutate()
}
const faults = computed(() => (bring.error.value instanceof Problem ? bring.error.value.faults : []))
/** The names to tell: those at fault now, and those that were told already. */
const open = computed(() => {
  const now = read.value ? unknowns(mapped(read.value.document, names.value), faults.value) : []
  const told = [...names.value.keys()].map((was) => ({ kind: 'field' as const, was, why: '' }))
  return [...told.filter((t) => !now.some((u) => u.was === t.was)), ...now]
})
const catalog = useQuery(queries.catalog())
const records = computed(() => (read.value ? mapped(read.value.document, names.value).records : ''))
const known = computed(() => !!catalog.data.value?.sets.some((s) => s.key === records.value))
const fields = useQuery(
  computed(() => queries.fields(open.value.length > 0 && known.value ? records.value : '')),
)
function tell(was: string, is: string) {
  const next = new Map(names.value)
  if (is) next.set(was, is)
  else next.delete(was)
  names.value = next
}
function drop() {
  rest.value = []
  bring.reset()
}
</script>

<template>
  <label class="link ml-auto cursor-pointer text-[13px] focus-within:outline-2"
    >Bring in from a file …<input
      type="file"
      accept=".json,application/json"
      class="sr-only"
      data-bring-in
      @change="choose"
  /></label>
  <p v-if="trouble" class="w-full text-mulberry" role="alert" data-refused>
    {{ trouble }} Nothing was saved.
  </p>
  <p v-if="otherwise" class="quiet w-full" role="status" data-otherwise>
    {{ otherwise }}: defined otherwise here. The views use what is defined here.
  </p>
  <div
    v-if="bring.error.value"
    class="w-full border-l-4 border-mulberry bg-sheet px-4 py-3"
    role="alert"
    data-refused
  >
    <p class="mb-1">
      <b class="font-medium">{{ read?.name }}</b> was not brought in.
      {{ open.length ? '' : wordsOf(bring.error.value) }}
    </p>
    <ul v-if="!open.length && faults.length" class="list-disc pl-5">
      <li v-for="f in faults" :key="f.path + f.message">{{ f.path }}: {{ f.message }}</li>
    </ul>
    <form v-if="open.length" @submit.prevent="bring.mutate()">
      <p class="quiet mb-1">It names what is not here. Say what each is called here, and try again.</p>
      <label
        v-for="u in open"
        :key="u.was"
        class="grid grid-cols-[16rem_18rem_1fr] items-baseline gap-4 border-b border-rule py-1"
        ><code class="truncate">{{ u.was }}</code>
        <select
          class="field py-0.5"
          :data-unknown="u.was"
          :value="names.get(u.was) ?? ''"
          @change="tell(u.was, ($event.target as HTMLSelectElement).value)"
        >
          <option value="">is called …</option>
          <template v-if="u.kind === 'records'"
            ><option v-for="s in offeredSets(catalog.data.value?.sets)" :key="s.key" :value="s.key">
              {{ s.label }}
            </option></template
          >
          <template v-else
            ><option v-for="f in fields.data.value?.fields" :key="f.path" :value="f.path">
              {{ f.way.length ? `${f.way.join(' › ')} › ` : '' }}{{ f.label }}
            </option></template
          ></select
        ><span class="quiet truncate text-xs" :title="u.why">{{ u.why }}</span></label
      >
      <p class="mt-2 flex gap-4">
        <button
          class="button button-act"
          type="submit"
          data-bring-again
          :disabled="!names.size || bring.isPending.value"
        >
          Bring it in</button
        ><button type="button" class="button" @click="drop">Leave it</button>
      </p>
    </form>
  </div>
</template>
