<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { onMounted, ref } from 'vue'
import { api, unwrap } from '../api/client'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'

/**
 * Sets a second factor up, or takes it away. Due: administrators ask it of everybody, so
 * there is no way round it.
 */
const props = defineProps<{ on: boolean; due?: boolean }>()
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const code = ref('')
const begin = useMutation({ mutationFn: () => unwrap(api.POST('/api/second-factor')) })
const confirm = useMutation({
  mutationFn: () => unwrap(api.PUT('/api/second-factor', { body: { code: code.value } })),
})
const drop = useMutation({
  mutationFn: () => unwrap(api.POST('/api/second-factor/off', { body: { code: code.value } })),
  onSuccess: () => leave(),
})
onMounted(() => {
  if (!props.on) begin.mutate()
})
function leave() {
  void client.invalidateQueries()
  emit('close')
}
function close() {
  if (confirm.data.value) leave()
  else if (!props.due) emit('close')
}
</script>

<template>
  <DialogFrame
    :title="on ? 'Second factor' : confirm.data.value ? 'Keep these spare codes' : 'Set up a second factor'"
    tone="mulberry"
    :width="520"
    acts
    @close="close"
  >
    <template v-if="confirm.data.value">
      <p class="mb-3">
        It is set up. If you lose the app, each of these lets you in once. They are not shown again: print
        them, or write them down.
      </p>
      <ol class="mb-4 grid grid-cols-2 gap-x-8 font-mono" data-spare>
        <li v-for="s in confirm.data.value.spare" :key="s" class="border-b border-rule py-1">{{ s }}</li>
      </ol>
      <p class="text-right"><button class="button button-act" @click="leave">I have them</button></p>
    </template>
    <form v-else-if="on" @submit.prevent="drop.mutate()">
      <p class="mb-4">
        When you sign in, a code of your app is asked for beside the password. To take that away, type a code.
      </p>
      <label class="mb-4 block"
        ><span class="mb-1 block font-medium">Code of your app, or a spare one</span
        ><input
          v-model="code"
          class="field max-w-48 font-mono tracking-widest"
          name="second-code"
          autocomplete="one-time-code"
          required
      /></label>
      <p v-if="drop.error.value" class="mb-3 text-mulberry" role="alert">{{ wordsOf(drop.error.value) }}</p>
      <p class="flex justify-end gap-3">
        <button type="button" class="button" @click="close">Close</button
        ><button type="submit" class="button" :disabled="drop.isPending.value">Take it away</button>
      </p>
    </form>
    <form v-else @submit.prevent="confirm.mutate()">
      <p v-if="due" class="quiet mb-3">
        Everybody who signs in with a password needs one here; an administrator has settled that.
      </p>
      <p class="mb-3">
        An app on your phone that makes codes takes this picture; then type the code that it shows.
      </p>
      <div v-if="begin.data.value" class="mb-4 flex items-center gap-6">
        <img
          :src="begin.data.value.picture"
          width="180"
          height="180"
          alt="The secret as a picture for the app"
          class="border border-rule bg-white p-2"
        />
        <p class="min-w-0">
          <span class="quiet mb-1 block text-xs">Or type this into the app:</span
          ><code class="block font-mono text-[13px] break-all select-all" data-secret>{{
            begin.data.value.secret
          }}</code
          ><a class="link mt-2 inline-block text-[13px]" :href="begin.data.value.address"
            >Open the app on this machine</a
          >
        </p>
      </div>
      <label class="mb-4 block"
        ><span class="mb-1 block font-medium">Code that the app shows</span
        ><input
          v-model="code"
          class="field max-w-48 font-mono tracking-widest"
          name="second-code"
          inputmode="numeric"
          autocomplete="one-time-code"
          required
      /></label>
      <p v-if="begin.error.value || confirm.error.value" class="mb-3 text-mulberry" role="alert">
        {{ wordsOf(begin.error.value ?? confirm.error.value) }}
      </p>
      <p class="flex justify-end gap-3">
        <button v-if="!due" type="button" class="button" @click="close">Cancel</button
        ><button
          type="submit"
          class="button button-act"
          :disabled="confirm.isPending.value || !begin.data.value"
        >
          Ask for codes from now on
        </button>
      </p>
    </form>
  </DialogFrame>
</template>
