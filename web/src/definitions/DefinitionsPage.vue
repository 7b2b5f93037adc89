<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import type { Definition, LinkBy } from '../api/client'
import { offeredSets, queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { nearest } from '../shell/nearest'
import DefinitionPanel from './DefinitionPanel.vue'

/** Fields that all views of a record set share: calculated ones, buckets, values of linked records. */
const route = useRoute()
const list = useQuery(queries.definitions())
const catalog = useQuery(queries.catalog())
const all = computed(() => list.data.value?.definitions ?? [])
const words = ref('')
const labelOf = (d: Definition) => (d.calculated ?? d.bucket ?? d.linked ?? d.beside)?.label ?? d.key
const kindOf = (d: Definition) =>
  d.bucket ? 'bucket' : d.linked ? 'linked value' : d.beside ? 'beside others' : 'calculated'
const setOf = (key: string) => catalog.data.value?.sets.find((s) => s.key === key)
const found = computed(() =>
  nearest(words.value, all.value, (d) => ({
    name: labelOf(d),
    path: d.records,
    key: d.owner,
    meaning: d.words,
  })),
)

type Open = {
  records: string
  kind: 'calculate' | 'bucket' | 'linked' | 'beside'
  key: string | null
  source?: LinkBy
}
const open = ref<Open | null>(null)
const place = (d: Definition) => `${d.records}.${d.key}`
const shown = computed(
  () => all.value.find((d) => open.value?.key === d.key && open.value.records === d.records) ?? null,
)
function choose(d: Definition) {
  const kind = d.bucket ? 'bucket' : d.linked ? 'linked' : d.beside ? 'beside' : 'calculate'
  open.value = { records: d.records, kind, key: d.key, source: sourceOf(d) }
}
watch(
  [all, () => route.query.open],
  () => {
    const wanted = all.value.find((d) => place(d) === route.query.open)
    if (wanted && !open.value) choose(wanted)
  },
  { immediate: true },
)
const forSet = ref('')
const chosenSet = computed({
  get: () => forSet.value || (open.value?.records ?? catalog.data.value?.sets[0]?.key ?? ''),
  set: (v) => (forSet.value = v),
})
function begin(kind: Open['kind'], source?: LinkBy) {
  open.value = { records: chosenSet.value, kind, key: null, source }
}
/** The records that a linked value is drawn from. */
function sourceOf({ records, linked }: Definition) {
  return setOf(records)?.linkedBy.find((l) => l.records === linked?.records && l.by === linked.by)
}
/** Counts how often the panel was made anew from what the list says. */
const anew = ref(0)
function done(key: string | null) {
  open.value = key && open.value ? { ...open.value, key } : null
  anew.value++
}
</script>

<template>
  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_minmax(0,720px)] overflow-hidden">
    <section class="min-h-0 overflow-auto px-8 py-6">
      <h1 class="heading text-2xl">Definitions</h1>
      <p class="quiet mt-1 mb-4">
        Calculated fields, buckets and values of linked records that all views of a record set share. Change
        one here, and every view that uses it follows.
      </p>
      <input
        v-model="words"
        class="field mb-3"
        type="search"
        placeholder="Find by name, formula, record set or owner"
        aria-label="Find a definition"
      />
      <p v-if="list.error.value" role="alert">{{ wordsOf(list.error.value) }}</p>
      <ul data-definitions>
        <li v-for="d in found" :key="place(d)" class="border-b border-rule">
          <button
            class="w-full py-2.5 text-left"
            :class="shown === d && 'bg-mulberry-wash'"
            :aria-pressed="shown === d"
            @click="choose(d)"
          >
            <span class="flex items-baseline gap-3"
              ><b class="heading text-base">{{ labelOf(d) }}</b
              ><span class="quiet text-xs"
                >{{ kindOf(d) }} · {{ setOf(d.records)?.label ?? d.records }}</span
              ></span
            >
            <span class="block truncate" :class="d.broken ? 'text-mulberry' : ''" :title="d.words">{{
              d.words
            }}</span>
            <span class="quiet block text-xs"
              >by {{ d.owner }} ·
              {{
                d.usedIn.length + d.hidden === 0
                  ? 'no view uses it'
                  : `used in ${d.usedIn.map((v) => v.name).join(', ')}${d.hidden ? `${d.usedIn.length ? ' and ' : ''}${d.hidden} of others` : ''}`
              }}</span
            >
          </button>
        </li>
      </ul>
      <p v-if="list.data.value && !all.length" class="quiet py-4">
        Nothing is defined yet. Define a field here, or choose “Save for all views” where you calculate one.
      </p>
      <p v-else-if="!found.length && all.length" class="quiet py-4">No definition matches these words.</p>
      <p class="mt-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <span class="quiet">New for</span>
        <select v-model="chosenSet" class="field w-auto py-0.5" aria-label="Record set">
          <option v-for="s in offeredSets(catalog.data.value?.sets)" :key="s.key" :value="s.key">
            {{ s.label }}
          </option>
        </select>
        <button class="link" data-new-calculated @click="begin('calculate')">a calculated field</button>
        <button class="link" data-new-bucket @click="begin('bucket')">a bucket</button>
        <select
          v-if="setOf(chosenSet)?.linkedBy.length"
          class="field !w-56 py-0.5"
          value=""
          aria-label="A value of linked records"
          data-new-linked
          @change="
            begin('linked', setOf(chosenSet)?.linkedBy[Number(($event.target as HTMLSelectElement).value)])
            ;($event.target as HTMLSelectElement).value = ''
          "
        >
          <option value="">a value of linked …</option>
          <option v-for="(l, i) in setOf(chosenSet)?.linkedBy" :key="i" :value="i">
            {{ l.label }}{{ l.by.includes('.') ? ` by ${l.way}` : '' }}
          </option>
        </select>
      </p>
    </section>
    <DefinitionPanel
      v-if="open"
      :key="`${open.records} ${open.key} ${open.kind} ${open.source?.records} ${open.source?.by} ${anew}`"
      :records="open.records"
      :kind="open.kind"
      :source="open.source"
      :definition="shown"
      :set-label="setOf(open.records)?.label ?? open.records"
      @done="done"
      @renew="anew++"
    />
    <aside v-else class="quiet border-l border-rule bg-sheet p-8">
      Choose a definition to see how it works and which views use it.
    </aside>
  </main>
</template>
