<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { SentLetter } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { formatDateTime } from '../words'
import { useDeliveries } from './useDeliveries'

/** What was sent of a delivery, the newest first: to whom, and what became of it. */
const props = defineProps<{ delivery: string }>()
const { retry } = useDeliveries()
const letters = useQuery(
  computed(() => ({
    ...queries.letters(props.delivery),
    // Letters that are on their way are looked after.
    refetchInterval: (query: { state: { data?: { letters: SentLetter[] } } }) =>
      query.state.data?.letters.some((l) => l.state === 'waiting' || l.state === 'sending') ? 1000 : false,
  })),
)
const reasons: Record<SentLetter['of'], string> = {
  due: '',
  now: 'sent by hand',
  me: 'to see it',
  notice: 'told that it paused',
}
/** The letters of each time. */
const runs = computed(() => {
  const out: { run: number; head: SentLetter; letters: SentLetter[] }[] = []
  for (const l of letters.data.value?.letters ?? []) {
    const last = out.at(-1)
    if (last?.run === l.run) last.letters.push(l)
    else out.push({ run: l.run, head: l, letters: [l] })
  }
  return out
})
const tones: Partial<Record<SentLetter['state'], string>> = {
  sent: 'text-pine',
  failed: 'text-mulberry',
  kept: 'text-honey',
}
</script>

<template>
  <div
    class="max-h-80 overflow-auto border-l-2 border-rule py-1 pl-4 text-[13px]"
    tabindex="0"
    aria-label="What was sent"
    data-letters
  >
    <p v-if="letters.error.value || retry.error.value" class="text-mulberry" role="alert">
      {{ wordsOf(letters.error.value ?? retry.error.value) }}
    </p>
    <p v-else-if="letters.data.value && !runs.length" class="quiet">Nothing was sent yet.</p>
    <section v-for="r in runs" :key="r.run" class="mb-2">
      <p class="quiet text-xs">
        {{ formatDateTime(r.head.at)
        }}<template v-if="reasons[r.head.of]">, {{ reasons[r.head.of] }}</template>
      </p>
      <ul>
        <li v-for="l in r.letters" :key="l.id" class="flex items-baseline gap-3">
          <span class="w-56 shrink-0 truncate" :title="l.address">{{ l.to }}</span>
          <span class="min-w-0 flex-1" :class="tones[l.state] ?? 'quiet'" :data-letter-state="l.state">{{
            l.words
          }}</span>
          <button
            v-if="l.state === 'failed'"
            class="link"
            :disabled="retry.isPending.value"
            data-retry
            @click="retry.mutate({ key: delivery, letter: l.id })"
          >
            send it after all
          </button>
        </li>
      </ul>
    </section>
  </div>
</template>
