<script setup lang="ts">
import { keepPreviousData, useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, unwrap } from '../api/client'
import { wordsOf } from '../api/problem'

/** Who signed in, shared, exported and changed permissions, the newest first. */
const what = ref('')
const words = ref('')
const settled = refDebounced(words, 250)
const trail = useInfiniteQuery({
  queryKey: ['audit', what, settled],
  initialPageParam: 0,
  staleTime: 0,
  placeholderData: keepPreviousData,
  queryFn: ({ pageParam }) =>
    unwrap(
      api.GET('/api/audit', {
        params: { query: { before: pageParam, what: what.value, words: settled.value } },
      }),
    ),
  getNextPageParam: (last) => (last.more ? last.events.at(-1)?.id : undefined),
})
const events = computed(() => trail.data.value?.pages.flatMap((p) => p.events) ?? [])
const kinds = computed(() => trail.data.value?.pages[0]?.kinds ?? [])
const at = (iso: string) =>
  new Date(iso).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })
</script>

<template>
  <section aria-label="Audit trail">
    <p class="mb-3 flex gap-4">
      <input
        v-model="words"
        class="field max-w-sm"
        type="search"
        placeholder="Find a person, a view, a group …"
        aria-label="Find in the trail"
      />
      <select v-model="what" class="field !w-56" aria-label="Kind">
        <option value="">everything</option>
        <option v-for="k in kinds" :key="k" :value="k">{{ k }}</option>
      </select>
    </p>
    <p v-if="trail.error.value" role="alert">{{ wordsOf(trail.error.value) }}</p>
    <table class="w-full text-left" data-trail>
      <thead>
        <tr class="border-b border-rule text-mute">
          <th class="w-48 py-1 font-medium">When</th>
          <th class="w-72 font-medium">Who</th>
          <th class="w-44 font-medium">What</th>
          <th class="font-medium">Of what</th>
          <th class="w-28 font-medium">From</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="e in events" :key="e.id" class="border-b border-rule align-baseline">
          <td class="py-1 whitespace-nowrap">{{ at(e.at) }}</td>
          <td class="truncate pr-3">{{ e.who }}</td>
          <td :class="e.what === 'sign-in refused' && 'text-honey'">{{ e.what }}</td>
          <td class="pr-3">{{ e.about }}</td>
          <td class="quiet">{{ e.address }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="trail.data.value && !events.length" class="quiet py-3">Nothing of that kind.</p>
    <button v-if="trail.hasNextPage.value" class="link mt-3" @click="trail.fetchNextPage()">
      Older ones
    </button>
  </section>
</template>
