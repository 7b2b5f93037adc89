<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Document, RecordSet } from '../../api/client'
import { queries } from '../../api/queries'
import { formatCount } from '../../words'

/** How many records of another set link to one, and the first of them. */
const props = defineProps<{ set: RecordSet | undefined; by: string; value: string; way: string }>()
const view = computed<Document>(() => ({
  gavrik: 1,
  records: props.set?.key ?? '',
  columns: [{ field: props.set?.name ?? '' }],
  filter: { all: [{ field: props.by, op: 'is', value: props.value }] },
}))
const { data } = useQuery(
  computed(() =>
    queries.run(`${props.set?.key} ${props.by}`, { view: view.value, depth: 0, limit: 4 }, !!props.set),
  ),
)
</script>

<template>
  <p
    v-if="set && data"
    class="flex items-baseline gap-2 border-b border-rule py-1 text-[13px]"
    :data-linked-count="set.key"
  >
    <span class="min-w-0 flex-1 truncate"
      >{{ set.label }} <span class="quiet text-xs">by {{ way }}</span>
      <RouterLink
        v-for="l in data.lines"
        :key="l.record"
        class="link ml-2 text-xs"
        :to="`/r/${set.key}/${encodeURIComponent(l.record ?? '')}`"
        >{{ l.cells[0] || l.record }}</RouterLink
      >
    </span>
    <span>{{ formatCount(data.tally.kept) }}</span>
  </p>
</template>
