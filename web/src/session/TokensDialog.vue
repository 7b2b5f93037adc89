<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, unwrap } from '../api/client'
import { forget, queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'
import { formatDateTime } from '../words'

/** One's tokens, by which programs run views as oneself. A new one is shown this once. */
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const tokens = useQuery(queries.tokens())
const name = ref('')
const days = ref(90)
const again = () => forget(client, 'tokens')
const add = useMutation({
  mutationFn: () => unwrap(api.POST('/api/tokens', { body: { name: name.value.trim(), days: days.value } })),
  onSuccess: () => {
    name.value = ''
    return again()
  },
})
const revoke = useMutation({
  mutationFn: (id: number) => unwrap(api.DELETE('/api/tokens/{id}', { params: { path: { id } } })),
  onSuccess: again,
})
const address = location.origin
</script>

<template>
  <DialogFrame title="Tokens for programs" tone="mulberry" :width="640" @close="emit('close')">
    <p class="quiet mb-4">
      A program that holds one runs views as you do, and can do nothing else. Give each program its own.
    </p>
    <ul v-if="tokens.data.value?.tokens.length" class="mb-4" data-tokens>
      <li
        v-for="t in tokens.data.value.tokens"
        :key="t.id"
        class="flex items-baseline gap-4 border-b border-rule py-1.5"
      >
        <b class="min-w-0 flex-1 truncate font-medium">{{ t.name }}</b>
        <span class="quiet text-xs">{{
          t.usedAt ? `used ${formatDateTime(t.usedAt)}` : 'not used yet'
        }}</span><span class="quiet text-xs">until {{ formatDateTime(t.endsAt) }}</span>
        <button class="link text-[13px]" :aria-label="`Revoke ${t.name}`" @click="revoke.mutate(t.id)">
          revoke
        </button>
      </li>
    </ul>
    <div v-if="add.data.value" class="mb-4 bg-pine-wash p-3" role="status">
      <p class="mb-1">Copy it now; it is not shown again.</p>
      <code class="block font-mono text-[13px] break-all select-all" data-token>{{
        add.data.value.token
      }}</code>
      <p class="quiet mt-2 text-xs break-all">
        curl -H "Authorization: Bearer …" "{{ address }}/api/views/KEY/result?format=csv&amp;answer.route=…" —
        KEY is the end of a view’s address.
      </p>
    </div>
    <form class="mb-4 flex items-end gap-3" @submit.prevent="add.mutate()">
      <label class="flex-1"
        ><span class="mb-1 block font-medium">What is the new one for?</span
        ><input
          v-model="name"
          class="field"
          name="token-name"
          maxlength="80"
          required
          placeholder="the nightly report"
      /></label>
      <label
        ><span class="mb-1 block font-medium">It lasts</span
        ><select v-model.number="days" class="field" name="token-days">
          <option :value="30">30 days</option>
          <option :value="90">90 days</option>
          <option :value="365">a year</option>
        </select></label
      >
      <button class="button button-act" type="submit" :disabled="add.isPending.value || !name.trim()">
        Make it
      </button>
    </form>
    <p v-if="add.error.value || revoke.error.value" class="mb-3 text-mulberry" role="alert">
      {{ wordsOf(add.error.value ?? revoke.error.value) }}
    </p>
  </DialogFrame>
</template>
