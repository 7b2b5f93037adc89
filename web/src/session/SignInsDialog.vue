<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, unwrap } from '../api/client'
import { forget, queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'
import { formatDateTime } from '../words'
import { machineOf } from './machine'

/** Where one is signed in, each with a way to end it. */
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const list = useQuery(queries.signIns())
const end = useMutation({
  mutationFn: (id: number) => unwrap(api.DELETE('/api/sessions/{id}', { params: { path: { id } } })),
  onSettled: () => forget(client, 'sign-ins'),
})
</script>

<template>
  <DialogFrame title="Where you are signed in" tone="mulberry" :width="640" @close="emit('close')">
    <p class="quiet mb-4">If you do not know one of these, end it and change your password.</p>
    <p v-if="list.error.value || end.error.value" class="mb-3 text-mulberry" role="alert">
      {{ wordsOf(list.error.value ?? end.error.value) }}
    </p>
    <ul class="mb-4" data-sign-ins>
      <li
        v-for="s in list.data.value?.signIns ?? []"
        :key="s.id"
        class="flex items-baseline gap-4 border-b border-rule py-2"
      >
        <span class="min-w-0 flex-1"
          ><b class="block truncate font-medium" :title="s.agent">{{ machineOf(s.agent) }}</b
          ><span class="quiet block text-xs"
            >{{ s.way }}, from {{ s.address }}, since {{ formatDateTime(s.begunAt) }}</span
          ></span
        >
        <span class="quiet text-xs">used {{ formatDateTime(s.seenAt) }}</span>
        <span v-if="s.this" class="w-16 text-right text-pine">here</span>
        <button
          v-else
          class="link w-16 text-right"
          :aria-label="`End ${machineOf(s.agent)}`"
          @click="end.mutate(s.id)"
        >
          end it
        </button>
      </li>
    </ul>
  </DialogFrame>
</template>
