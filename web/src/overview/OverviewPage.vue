<script setup lang="ts">
import { useQueries, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import type { Condition, Document } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import LinkedWhere from '../bench/editors/LinkedWhere.vue'
import { formatCount, formatSize } from '../words'
import FieldOver from './FieldOver.vue'
import { keepSelection, selectionHere } from './selection'

/** A record set looked over, field by field, under a filter: a page that can be printed. */
const props = defineProps<{ set: string }>()
const catalog = useQuery(queries.catalog())
const set = computed(() => catalog.data.value?.sets.find((s) => s.key === props.set))
const fields = useQuery(computed(() => queries.fields(props.set)))
const usable = computed(() => fields.data.value?.fields ?? [])
const view = ref<Document>(selectionHere(props.set))
watch(view, (v) => keepSelection(v))
/** Conditions that all have to hold; one of another form stands as it is beside them. */
const where = computed<Condition[]>({
  get: () => {
    const filter = view.value.filter
    return !filter ? [] : filter.all && Object.keys(filter).length === 1 ? filter.all : [filter]
  },
  set: (all) => (view.value = { ...view.value, filter: all.length ? { all } : undefined }),
})
const filtering = ref(false)

/** Fields are looked over a few at a time, so that the first are there at once. */
const atOnce = 6
const groups = computed(() => {
  const own = usable.value
    .filter((f) => !f.way.length && !f.hidden && f.kind !== 'per_total')
    .map((f) => f.path)
  return Array.from({ length: Math.ceil(own.length / atOnce) }, (_, i) =>
    own.slice(i * atOnce, (i + 1) * atOnce),
  )
})
const parts = useQueries({
  queries: computed(() => groups.value.map((paths) => queries.overview(view.value, paths))),
})
const looked = computed(() => parts.value.flatMap((p) => p.data?.fields ?? []))
const size = computed(() => (set.value ? formatSize(set.value) : ''))
const first = computed(() => parts.value.find((p) => p.data)?.data)
const error = computed(() => parts.value.find((p) => p.error)?.error)
const pending = computed(() => parts.value.some((p) => p.isPending))
const odd = computed(() => looked.value.filter((f) => f.remarks.length).length)
const records = computed(() => looked.value[0]?.records ?? 0)
const print = () => window.print()
</script>

<template>
  <main v-if="set" class="overflow-auto px-10 py-6 max-md:px-4 print:overflow-visible print:p-0">
    <div class="mb-1 flex flex-wrap items-baseline gap-x-6 gap-y-1">
      <h1 class="heading text-2xl">{{ set.label }}, looked over</h1>
      <span class="quiet">{{ set.grain }}</span>
      <span class="ml-auto flex gap-5 print:hidden">
        <RouterLink class="link" :to="`/records?set=${set.key}`">Fields and links</RouterLink>
        <button class="link" @click="print">Print</button>
      </span>
    </div>
    <p class="mb-3 max-w-4xl" data-looked-at>
      <template v-if="where.length"
        >{{ first?.sentence ?? '…' }} {{ formatCount(records) }} of {{ size }} records.</template
      ><template v-else>All {{ size }} records.</template>
      <span v-if="!pending && odd" class="ml-1">{{
        `${odd} of ${looked.length} fields ${odd === 1 ? 'holds' : 'hold'} something out of the ordinary.`
      }}</span>
      <button
        class="link ml-2 print:hidden"
        :aria-expanded="filtering"
        data-filter
        @click="filtering = !filtering"
      >
        {{ where.length ? 'change the filter' : 'only some of them …' }}
      </button>
    </p>
    <div v-if="filtering" class="mb-4 max-w-xl border-l-2 border-mulberry bg-sheet px-4 pb-3 print:hidden">
      <LinkedWhere
        v-model="where"
        :source="{ records: set.key, many: set.label.toLowerCase() }"
        :fields="usable"
      />
    </div>
    <p v-if="error" class="mb-3 text-mulberry" role="alert">{{ wordsOf(error) }}</p>
    <table class="w-full table-fixed border-collapse text-left">
      <thead>
        <tr class="border-b border-edge text-mute">
          <th class="w-[31%] py-1.5 font-medium max-md:w-[34%]">Field</th>
          <th class="w-24 pr-6 text-right font-medium">Filled</th>
          <th class="w-24 pr-6 text-right font-medium">Different</th>
          <th class="w-[24%] font-medium">Spread</th>
          <th class="font-medium max-md:hidden">Commonest</th>
        </tr>
      </thead>
      <tbody>
        <FieldOver v-for="f in looked" :key="f.path" :field="f" />
      </tbody>
    </table>
    <p v-if="pending" class="quiet py-3" role="status">Looking …</p>
  </main>
</template>
