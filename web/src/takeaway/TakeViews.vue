<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { ViewSummary } from '../api/client'
import { wordsOf } from '../api/problem'
import { queries } from '../api/queries'
import DialogFrame from '../shell/DialogFrame.vue'
import TakeAway from './TakeAway.vue'
import type { Taken } from './useTakeAway'

/** Takes saved views away: one with all its choices, or several at once. */
const props = defineProps<{ views: readonly ViewSummary[] }>()
const emit = defineEmits<{ close: [] }>()
const one = props.views.length === 1 ? props.views[0] : undefined
const { data, error } = useQuery({ ...queries.view(one?.key ?? ''), enabled: !!one })
const of = computed<Taken | null>(() => {
  if (!one) return { memory: 'several', name: '', keys: props.views.map((v) => v.key) }
  return data.value ? { memory: one.key, key: one.key, name: one.name, document: data.value.document } : null
})
</script>

<template>
  <TakeAway v-if="of" :of="of" @close="emit('close')" />
  <DialogFrame v-else-if="error" title="Take away" @close="emit('close')">
    <p class="text-mulberry" role="alert">{{ wordsOf(error) }}</p>
  </DialogFrame>
</template>
