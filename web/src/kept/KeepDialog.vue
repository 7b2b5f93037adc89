<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, unwrap, type Document } from '../api/client'
import { forget } from '../api/queries'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'

/** Keeps what a view says now. */
const props = defineProps<{ view: string; document: Document; sentence: string }>()
const emit = defineEmits<{ close: []; said: [text: string] }>()
const client = useQueryClient()
const name = ref('')
const keep = useMutation({
  mutationFn: () =>
    unwrap(
      api.POST('/api/views/{key}/kept', {
        params: { path: { key: props.view } },
        body: { view: props.document, name: name.value.trim() || undefined },
      }),
    ),
  onSuccess: async (kept) => {
    await forget(client, 'kept results')
    emit('said', `It is kept, as of ${kept.asOfText}. Kept results are in the menu.`)
    emit('close')
  },
})
</script>

<template>
  <DialogFrame
    title="Keep this result"
    tone="mulberry"
    :width="560"
    acts
    data-keep-dialog
    @close="emit('close')"
  >
    <form @submit.prevent="keep.mutate()">
      <p class="quiet mb-3 line-clamp-3 font-serif">{{ sentence }}</p>
      <p class="mb-4">
        Its records, groups and totals stay as they are now, whatever becomes of the records. Later it can be
        looked at, taken away, and compared.
      </p>
      <label class="block"
        ><span class="mb-1 block font-medium">A word for it</span
        ><input
          v-model="name"
          class="field"
          maxlength="120"
          name="kept-name"
          placeholder="none: it is called by its moment"
      /></label>
      <p v-if="keep.error.value" class="mt-3 text-mulberry" role="alert">{{ wordsOf(keep.error.value) }}</p>
      <p class="mt-5 flex items-center justify-end gap-3">
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button type="submit" class="button button-act" :disabled="keep.isPending.value" data-keep-now>
          {{ keep.isPending.value ? 'Keeping …' : 'Keep it' }}
        </button>
      </p>
    </form>
  </DialogFrame>
</template>
