<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { api, unwrap } from '../api/client'
import { wordsOf } from '../api/problem'
import { forget, queries } from '../api/queries'
import DialogFrame from '../shell/DialogFrame.vue'

/** What stands at the head of everybody's paper: a logo, a name, an address. */
const emit = defineEmits<{ close: [] }>()
const client = useQueryClient()
const kept = useQuery(queries.letterhead())
const name = ref('')
const address = ref('')
const logo = ref('')
watch(
  kept.data,
  (now) => {
    if (!now) return
    name.value = now.name
    address.value = now.address
    logo.value = now.logo ?? ''
  },
  { immediate: true },
)
const trouble = ref('')
const mostBytes = 2 << 20
async function choose(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  if (file.size > mostBytes) {
    trouble.value = `${file.name} has ${Math.round(file.size / 1e6)} MB; a logo has at most 2.`
    return
  }
  trouble.value = ''
  logo.value = await new Promise<string>((done, fail) => {
    const reader = new FileReader()
    reader.onload = () => done(reader.result as string)
    reader.onerror = () => fail(new Error(`${file.name} cannot be read.`))
    reader.readAsDataURL(file)
  })
}
const save = useMutation({
  mutationFn: () =>
    unwrap(
      api.PUT('/api/letterhead', {
        body: { name: name.value, address: address.value, ...(logo.value ? { logo: logo.value } : {}) },
      }),
    ),
  onSuccess: async () => {
    await forget(client, 'letterhead', 'export pages')
    emit('close')
  },
})
</script>

<template>
  <DialogFrame title="Letterhead" tone="mulberry" acts data-letterhead @close="emit('close')">
    <form @submit.prevent="save.mutate()">
      <p class="quiet mb-4">
        It stands at the head of the first page of everything that is printed; a view can leave it out.
      </p>
      <label class="mb-3 block"
        ><span class="mb-1 block font-medium">Name</span
        ><input v-model="name" class="field" name="name" maxlength="120"
      /></label>
      <label class="mb-3 block"
        ><span class="mb-1 block font-medium">Address</span
        ><textarea v-model="address" class="field" name="address" rows="3" maxlength="500"></textarea>
      </label>
      <div class="mb-3 flex items-center gap-4">
        <span class="font-medium">Logo</span>
        <img v-if="logo" :src="logo" alt="The logo" class="max-h-14 max-w-48 bg-white" data-logo-shown />
        <label class="link cursor-pointer focus-within:outline-2"
          >{{ logo ? 'another …' : 'choose a PNG or SVG …'
          }}<input type="file" accept="image/png,image/svg+xml" class="sr-only" data-logo @change="choose"
        /></label>
        <button v-if="logo" type="button" class="link" @click="logo = ''">none</button>
      </div>
      <p v-if="trouble || save.error.value" class="mb-3 text-mulberry" role="alert">
        {{ trouble || wordsOf(save.error.value) }}
      </p>
      <p class="flex justify-end gap-3">
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button type="submit" class="button button-act" :disabled="save.isPending.value" data-save-letterhead>
          Save
        </button>
      </p>
    </form>
  </DialogFrame>
</template>
