<script setup lang="ts">
import { computed } from 'vue'
import type { RunResult, Trouble } from '../api/client'
import type { Freshness } from '../work/useFreshness'
import { formatCount, formatSeconds } from '../words'

/** Accounts for every record: how many there are, how many are kept, in how many groups, whether it adds up, and what was met on the way. */
const props = defineProps<{ result: RunResult; running: boolean; said: string; freshness?: Freshness }>()
const emit = defineEmits<{ follow: [trouble: Trouble]; anew: [] }>()
const tally = computed(() => props.result.tally)
const asOf = computed(() => (!tally.value.asked && props.freshness?.asOf.value) || tally.value.asOfText)
const newer = computed(() => !!props.freshness?.newer.value && !props.freshness.keepsUp.value)
const took = computed(() => {
  const ms = tally.value.micros / 1000
  return ms < 10_000 ? `${ms.toFixed(ms < 10 ? 1 : 0)} ms` : formatSeconds(ms / 1000)
})
const leads = (t: Trouble) => !!(t.condition ?? t.phrase ?? t.group)
const where = (t: Trouble) =>
  t.condition ? 'Keep only these records' : t.phrase ? 'Look at the condition' : 'Group by the currency'
</script>

<template>
  <footer
    class="flex h-9 shrink-0 items-center gap-3 overflow-hidden border-t border-rule bg-paper px-5 text-[13px] whitespace-nowrap max-md:gap-2 max-md:px-3"
    aria-live="polite"
    data-tally
  >
    <span class="max-md:hidden"
      ><b class="font-medium">{{ formatCount(tally.all) }}</b
      >{{ ' ' }}
      <span class="quiet" :title="tally.fewer ? 'There are others that are kept from you' : undefined"
        >{{ tally.fewer ? 'in all that you may see' : 'in all' }} ›</span
      ></span
    >
    <span :class="said && 'max-md:hidden'"
      ><b class="font-medium" data-kept>{{ formatCount(tally.kept) }}</b
      >{{ ' ' }} <span class="quiet">{{ tally.many }} kept</span></span
    >
    <span v-if="tally.others !== undefined"
      ><span class="quiet">beside</span> <b class="font-medium">{{ formatCount(tally.others) }}</b>{{ ' ' }}
      <span class="quiet">of {{ tally.side }}</span></span
    >
    <span v-if="tally.groups" class="max-md:hidden"
      ><span class="quiet">› in</span> <b class="font-medium">{{ formatCount(tally.groups) }}</b>{{ ' ' }}
      <span class="quiet">{{ tally.groups === 1 ? 'group' : 'groups' }}</span></span
    >
    <span
      v-if="tally.check"
      class="max-md:hidden"
      :class="tally.adds ? 'text-pine' : 'font-medium text-mulberry'"
      >{{ tally.adds ? '✓' : '✗' }} {{ tally.check }}</span
    >
    <template v-for="t in tally.problems" :key="t.text">
      <button
        v-if="leads(t)"
        class="min-w-0 truncate text-honey underline underline-offset-2"
        :title="`${t.text}. ${where(t)}`"
        data-trouble
        @click="emit('follow', t)"
      >
        {{ t.text }}
      </button>
      <span v-else class="min-w-0 truncate text-honey" :title="t.text">{{ t.text }}</span>
    </template>
    <span v-if="said" class="min-w-0 truncate text-pine max-md:order-first" :title="said" data-said>{{
      said
    }}</span>
    <span class="ml-auto flex items-center gap-2" :class="said && 'max-md:hidden'">
      <button
        v-if="newer"
        class="font-medium text-honey underline underline-offset-2"
        title="Records have changed since. Shows what they say now; you stay where you are"
        data-newer
        @click="freshness?.show()"
      >
        newer records are there
      </button>
      <span
        v-if="tally.asked"
        class="text-slate"
        title="These records stay in their database, and were asked for there. The answer is kept for five minutes."
        data-asked
        >◇ asked of the database
        <button class="underline underline-offset-2" @click="emit('anew')">ask again</button></span
      >
      <span class="quiet" aria-live="off"
        >records as of <span data-as-of>{{ asOf }}</span></span
      >
      <button
        v-if="freshness"
        role="switch"
        class="flex items-center gap-1.5 max-md:hidden"
        :class="freshness.keepsUp.value ? 'text-pine' : 'quiet'"
        :aria-checked="freshness.keepsUp.value"
        title="Shows newer records as they come, and marks what has changed"
        data-keep-up
        @click="freshness.toggle()"
      >
        <span
          class="h-2 w-2 rounded-full border border-current"
          :class="freshness.keepsUp.value && 'bg-current'"
        ></span>
        {{ freshness.keepsUp.value ? 'keeping up' : 'keep up' }}
      </button>
      <span class="quiet"
        >· <span :aria-hidden="true">{{ running ? '…' : took }}</span></span
      >
    </span>
  </footer>
</template>
