<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Document, RecordSet } from '../api/client'
import { plainColumns } from '../bench/document'
import { queries } from '../api/queries'
import { formatCount } from '../words'

/** The records of another set that link to the one at hand, as a small ledger. */
const props = defineProps<{ set: RecordSet; label: string; by: string; value: string; way: string }>()
const limit = ref(6)
/** The columns that would only say again what is looked at are left out. */
const columns = computed(() => {
  const link = props.by.slice(0, props.by.lastIndexOf('.') + 1)
  return props.set.standard.filter((field) => !field.startsWith(link)).slice(0, 6)
})
const view = computed<Document>(() => ({
  gavrik: 1,
  records: props.set.key,
  columns: plainColumns(columns.value),
  filter: { all: [{ field: props.by, op: 'is', value: props.value }] },
}))
const thing = computed(() => `${props.set.key} ${props.by} ${props.value}`)
const { data } = useQuery(
  computed(() => queries.run(thing.value, { view: view.value, depth: 0, limit: limit.value })),
)
</script>

<template>
  <section v-if="data" class="mb-6 overflow-x-auto" :data-linked="set.key">
    <h2 class="heading mb-1 text-base">
      {{ label }}
      <span class="quiet text-xs font-normal">{{ formatCount(data.tally.kept) }} by {{ way }}</span>
    </h2>
    <table v-if="data.lines.length" class="w-full border-collapse text-[13px]">
      <thead>
        <tr class="border-b border-edge text-left">
          <th
            v-for="(c, i) in data.columns"
            :key="i"
            class="quiet max-w-40 truncate py-1 pr-3 font-normal"
            :class="c.numeric && 'text-right'"
          >
            {{ c.heading }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(l, r) in data.lines" :key="r" class="border-b border-rule">
          <td
            v-for="(cell, i) in l.cells"
            :key="i"
            class="max-w-40 truncate py-0.5 pr-3"
            :class="data.columns[i]?.numeric && 'text-right'"
            :title="cell.startsWith('data:') ? '' : cell"
          >
            <RouterLink
              v-if="i === 0 && l.record"
              class="link"
              :to="`/r/${set.key}/${encodeURIComponent(l.record)}`"
              >{{ cell || l.record }}</RouterLink><template v-else-if="!cell.startsWith('data:')">{{
              cell
            }}</template>
          </td>
        </tr>
      </tbody>
    </table>
    <button
      v-if="data.tally.kept > data.lines.length"
      class="link mt-1 text-[13px]"
      @click="limit = Math.min(1000, limit * 10)"
    >
      show more
    </button>
  </section>
</template>
