<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, unwrap } from '../api/client'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'

/**
 * Changes one's own password; every other machine is signed out. First: somebody else has
 * chosen the one at hand, so there is no way round it.
 */
const props = defineProps<{ first?: boolean }>()
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const tokens = ref(false)
const old = ref('')
const fresh = ref('')
const done = ref(false)
const change = useMutation({
  mutationFn: () =>
    unwrap(api.PUT('/api/password', { body: { old: old.value, new: fresh.value, tokens: tokens.value } })),
  onSuccess: () => {
    if (props.first) void client.invalidateQueries()
    else done.value = true
  },
})
</script>

<template>
  <DialogFrame
    :title="first ? 'Choose a password of your own' : 'Change your password'"
    tone="mulberry"
    :width="420"
    :acts="!done"
    @close="first || emit('close')"
  >
    <p v-if="first" class="quiet mb-3">
      Somebody else has set the one you have. From now on nobody but you should know it.
    </p>
    <p v-if="done" role="status">It is changed. You go on here; every other machine is signed out.</p>
    <form v-else @submit.prevent="change.mutate()">
      <label class="mb-3 block"
        ><span class="mb-1 block font-medium">The one you have</span
        ><input
          v-model="old"
          class="field"
          type="password"
          name="old"
          autocomplete="current-password"
          required
      /></label>
      <label class="mb-4 block"
        ><span class="mb-1 block font-medium">The one to have</span
        ><input
          v-model="fresh"
          class="field"
          type="password"
          name="new"
          autocomplete="new-password"
          minlength="10"
          required
        /><span class="quiet text-xs"
          >At least 10 characters, and none of those that everybody tries first</span
        ></label
      >
      <label v-if="!first" class="mb-4 flex items-baseline gap-2"
        ><input v-model="tokens" type="checkbox" class="accent-mulberry" name="end-tokens" /> End my tokens
        for programs, too</label
      >
      <p v-if="change.error.value" class="mb-3 text-mulberry" role="alert">
        {{ wordsOf(change.error.value) }}
      </p>
      <p class="flex justify-end gap-3">
        <button v-if="!first" type="button" class="button" @click="emit('close')">Cancel</button
        ><button type="submit" class="button button-act" :disabled="change.isPending.value">Change it</button>
      </p>
    </form>
  </DialogFrame>
</template>
