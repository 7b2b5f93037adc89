<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { useMutation } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, body } from '../api/client'
import { wordsOf } from '../api/problem'

/** Changes one's own password; every other machine is signed out. */
const emit = defineEmits<{ close: [] }>()
const old = ref('')
const fresh = ref('')
const done = ref(false)
const change = useMutation({
  mutationFn: () => body(api.PUT('/api/password', { body: { old: old.value, new: fresh.value } })),
  onSuccess: () => (done.value = true),
})
</script>

<template>
  <Dialog :open="true" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-veil" aria-hidden="true"></div>
    <div class="fixed inset-0 flex items-start justify-center pt-24">
      <DialogPanel class="w-[420px] border border-t-3 border-rule border-t-mulberry bg-sheet p-6 shadow-xl">
        <DialogTitle class="heading mb-3 text-xl">Change your password</DialogTitle>
        <p v-if="done" role="status">It is changed. You go on here; every other machine is signed out.</p>
        <form v-else @submit.prevent="change.mutate()">
          <label class="mb-3 block"><span class="mb-1 block font-medium">The one you have</span><input v-model="old" class="field" type="password" name="old" autocomplete="current-password" required /></label>
          <label class="mb-4 block"><span class="mb-1 block font-medium">The one to have</span><input v-model="fresh" class="field" type="password" name="new" autocomplete="new-password" minlength="10" required /><span class="quiet text-xs">At least 10 characters</span></label>
          <p v-if="change.error.value" class="mb-3 text-mulberry" role="alert">{{ wordsOf(change.error.value) }}</p>
          <p class="flex justify-end gap-3"><button type="button" class="button" @click="emit('close')">Cancel</button><button type="submit" class="button button-act" :disabled="change.isPending.value">Change it</button></p>
        </form>
        <p v-if="done" class="mt-4 text-right"><button class="button" @click="emit('close')">Close</button></p>
      </DialogPanel>
    </div>
  </Dialog>
</template>
