<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { formatCount } from '../words'

/** What became of the records of a kept result: came, went, changed, and the totals beside each other. */
const props = defineProps<{ kept: string }>()
const route = useRoute()
const other = typeof route.query.with === 'string' ? route.query.with : ''
const of = useQuery(queries.kept(props.kept))
const got = useQuery(queries.differences(props.kept, other))
type List = 'changed' | 'came' | 'went'
const shown = ref<List>('changed')
const d = computed(() => got.data.value)
const lists = computed<{ list: List; words: string; n: number }[]>(() => [
  { list: 'changed', words: 'changed', n: d.value?.changed ?? 0 },
  { list: 'came', words: 'came', n: d.value?.came ?? 0 },
  { list: 'went', words: 'went', n: d.value?.went ?? 0 },
])
const records = computed(() => (shown.value === 'came' ? d.value?.listedCame : d.value?.listedWent) ?? [])
const listed = computed(() =>
  shown.value === 'changed' ? (d.value?.listedChanged.length ?? 0) : records.value.length,
)
const many = computed(() => lists.value.find((l) => l.list === shown.value)?.n ?? 0)
const trouble = computed(() => got.error.value ?? of.error.value)
const recordAt = (record: string) => `/r/${of.data.value?.document.records}/${encodeURIComponent(record)}`
</script>

<template>
  <main class="overflow-auto px-10 py-6 max-md:px-4">
    <h1 class="heading text-2xl">What changed</h1>
    <p v-if="of.data.value" class="quiet mt-1 mb-4">
      in
      <RouterLink class="link" :to="`/v/${of.data.value.view}`">{{
        of.data.value.viewName
      }}</RouterLink><template v-if="d">
        from <RouterLink class="link" :to="`/k/${props.kept}`">{{ d.before }}</RouterLink> to
        <RouterLink v-if="other" class="link" :to="`/k/${other}`">{{ d.now }}</RouterLink><template v-else
          >{{ d.now }}, the records as they are</template
        ></template
      >.
    </p>
    <p v-if="trouble" class="text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
    <p v-else-if="!d" class="quiet">Comparing …</p>
    <template v-else>
      <table class="mb-6" data-totals>
        <thead class="text-left text-mute">
          <tr class="border-b border-rule">
            <th class="py-1 pr-8 font-medium">Total</th>
            <th class="py-1 pr-8 text-right font-medium">{{ d.before }}</th>
            <th class="py-1 text-right font-medium">{{ other ? d.now : 'now' }}</th>
          </tr>
        </thead>
        <tbody class="tabular-nums">
          <tr v-for="t in d.totals" :key="t.label" class="border-b border-rule">
            <td class="py-1 pr-8">{{ t.label }}</td>
            <td class="py-1 pr-8 text-right">{{ t.before || 'blank' }}</td>
            <td class="py-1 text-right" :class="t.before !== t.now && 'font-semibold'">
              {{ t.now || 'blank' }}
            </td>
          </tr>
        </tbody>
      </table>
      <div class="mb-3 flex flex-wrap gap-1 border-b border-rule" role="tablist" aria-label="Records">
        <button
          v-for="l in lists"
          :key="l.list"
          role="tab"
          class="border-b-2 px-3 py-1.5"
          :aria-selected="shown === l.list"
          :class="shown === l.list ? 'border-mulberry font-medium' : 'border-transparent text-mute'"
          :data-became="l.list"
          @click="shown = l.list"
        >
          {{ formatCount(l.n) }} {{ l.words }}
        </button>
        <span class="quiet ml-auto py-1.5">{{ formatCount(d.same) }} stayed as they were</span>
      </div>
      <p v-if="!listed" class="quiet py-3">None.</p>
      <ul v-else-if="shown === 'changed'" data-changed>
        <li v-for="c in d.listedChanged" :key="c.record" class="flex gap-6 border-b border-rule py-1.5">
          <RouterLink class="link w-40 shrink-0 truncate" :to="recordAt(c.record)">{{ c.record }}</RouterLink>
          <span class="flex flex-wrap gap-x-6">
            <span v-for="f in c.changes" :key="f.column"
              ><span class="quiet">{{ d.columns[f.column] }}</span> {{ f.from || 'blank' }} →
              <b class="font-medium">{{ f.to || 'blank' }}</b></span
            >
          </span>
        </li>
      </ul>
      <div v-else class="overflow-auto" tabindex="0" aria-label="Records that came or went">
        <table class="w-full" :data-records="shown">
          <thead class="text-left text-mute">
            <tr class="border-b border-rule">
              <th class="py-1 pr-6 font-medium">Record</th>
              <th v-for="(c, i) in d.columns" :key="i" class="py-1 pr-6 font-medium">{{ c }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in records" :key="r.record" class="border-b border-rule">
              <td class="py-1 pr-6">
                <RouterLink v-if="shown === 'came'" class="link" :to="recordAt(r.record)">{{
                  r.record
                }}</RouterLink><template v-else>{{ r.record }}</template>
              </td>
              <td v-for="(text, i) in r.cells" :key="i" class="py-1 pr-6">{{ text }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="listed && listed < many" class="quiet mt-2 text-[13px]">
        The first {{ formatCount(listed) }} of {{ formatCount(many) }}.
      </p>
    </template>
  </main>
</template>
