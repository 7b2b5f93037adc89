<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap } from '../api/client'
import { forget, queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'
import { formatDateTime } from '../words'

/** The private address by which a calendar shows one's rounds. A new one is shown this once. */
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const feed = useQuery(queries.calendarFeed())
const again = () => forget(client, 'calendar feed')
const make = useMutation({ mutationFn: () => unwrap(api.POST('/api/calendar')), onSuccess: again })
const end = useMutation({
  mutationFn: () => unwrap(api.DELETE('/api/calendar')),
  onSuccess: () => {
    make.reset()
    return again()
  },
})
const made = computed(() => feed.data.value?.made)
const address = computed(() => (make.data.value ? location.origin + make.data.value.path : ''))
const trouble = computed(() => feed.error.value ?? make.error.value ?? end.error.value)
</script>

<template>
  <DialogFrame title="In your calendar" tone="mulberry" :width="600" data-calendar @close="emit('close')">
    <p class="mb-3">
      Any calendar that subscribes to an address shows what is to be looked at, and when. Whoever knows the
      address sees the names of your rounds and nothing of what is in them.
    </p>
    <div v-if="address" class="mb-3 bg-pine-wash p-3" role="status">
      <p class="mb-1">Copy it now; it is not shown again.</p>
      <code class="block font-mono text-[13px] break-all select-all" data-calendar-address>{{
        address
      }}</code>
    </div>
    <p v-else-if="made" class="quiet mb-3">
      There is an address, made {{ formatDateTime(made) }}. Only its fingerprint is kept: to see one again,
      make a new one.
    </p>
    <p v-if="trouble" class="mb-3 text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
    <p class="flex items-center gap-3">
      <button
        type="button"
        class="button button-act"
        :disabled="make.isPending.value"
        data-make-calendar
        @click="make.mutate()"
      >
        {{ made ? 'Make a new address; the old one ends' : 'Make a private address' }}
      </button>
      <button v-if="made" type="button" class="link" data-end-calendar @click="end.mutate()">End it</button>
    </p>
  </DialogFrame>
</template>
