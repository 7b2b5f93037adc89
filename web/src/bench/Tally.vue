<script setup lang="ts">
import { computed } from 'vue'
import type { RunResult } from '../api/client'
import { n } from '../words'

/** Accounts for every record: how many there are, how many are kept, in how many groups, and whether it adds up. */
const props = defineProps<{ result: RunResult; running: boolean }>()
const tally = computed(() => props.result.tally)
const took = computed(() => `${(tally.value.micros / 1000).toFixed(tally.value.micros < 10_000 ? 1 : 0)} ms`)
</script>

<template>
  <footer class="flex h-9 shrink-0 items-center gap-3 overflow-hidden border-t border-rule bg-paper px-5 text-[13px] whitespace-nowrap" aria-live="polite" data-tally>
    <span><b class="font-medium">{{ n(tally.all) }}</b> <span class="quiet">in all ›</span></span>
    <span><b class="font-medium" data-kept>{{ n(tally.kept) }}</b> <span class="quiet">{{ tally.many }} kept</span></span>
    <span v-if="tally.others !== undefined"><span class="quiet">beside</span> <b class="font-medium">{{ n(tally.others) }}</b> <span class="quiet">of {{ tally.side }}</span></span>
    <span v-if="tally.groups"><span class="quiet">› in</span> <b class="font-medium">{{ n(tally.groups) }}</b> <span class="quiet">{{ tally.groups === 1 ? 'group' : 'groups' }}</span></span>
    <span v-if="tally.check" :class="tally.adds ? 'text-pine' : 'font-medium text-mulberry'">{{ tally.adds ? '✓' : '✗' }} {{ tally.check }}</span>
    <span v-for="p in tally.problems" :key="p" class="text-honey">{{ p }}</span>
    <span class="quiet ml-auto">records as of {{ tally.asOfText }} · <span :aria-hidden="true">{{ running ? '…' : took }}</span></span>
  </footer>
</template>
