<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import type { Round } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'
import { formatDateTime } from '../words'

/** Who looked when, and what was noted. */
const props = defineProps<{ round: Round }>()
const emit = defineEmits<{ close: []; change: [] }>()
const looks = useQuery(queries.looks(props.round.key))
</script>

<template>
  <DialogFrame :title="round.name" tone="mulberry" :width="640" data-looks @close="emit('close')">
    <p class="quiet mb-3">
      To be looked at {{ round.words }}, by {{ round.who }}. Made by {{ round.by }}.
      <button v-if="round.owned" class="link" data-change-round @click="emit('change')">Change it …</button>
    </p>
    <p v-if="looks.error.value" class="text-mulberry" role="alert">{{ wordsOf(looks.error.value) }}</p>
    <p v-else-if="looks.data.value && !looks.data.value.looks.length" class="quiet">
      Nobody has looked at it yet.
    </p>
    <ul v-else-if="looks.data.value" class="max-h-[50vh] overflow-auto" tabindex="0" aria-label="Looks">
      <li v-for="l in looks.data.value.looks" :key="l.at + l.by" class="border-b border-rule py-1.5">
        <p class="flex items-baseline gap-3">
          <b class="font-medium">{{ l.by }}</b>
          <span class="quiet text-xs">{{ formatDateTime(l.at) }}</span>
          <span class="quiet ml-auto text-xs">{{
            l.due ? `it was due since ${formatDateTime(l.due)}` : 'before it was due'
          }}</span>
        </p>
        <p v-if="l.note" class="font-serif">{{ l.note }}</p>
      </li>
    </ul>
  </DialogFrame>
</template>
