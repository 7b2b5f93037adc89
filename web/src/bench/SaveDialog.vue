<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { ref } from 'vue'

/** Names a view and says who sees it. */
const props = defineProps<{ title: string; name: string; description: string; shared: boolean; brief: string; busy: boolean; trouble: string; deletable: boolean }>()
const emit = defineEmits<{ save: [what: { name: string; description: string; shared: boolean }]; close: []; remove: [] }>()
const name = ref(props.name)
const description = ref(props.description)
const shared = ref(props.shared)
const sure = ref(false)
</script>

<template>
  <Dialog :open="true" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-ink/30" aria-hidden="true"></div>
    <div class="fixed inset-0 flex items-start justify-center pt-24">
      <DialogPanel class="w-[520px] border border-t-3 border-rule border-t-mulberry bg-sheet p-6 shadow-xl">
        <form @submit.prevent="emit('save', { name, description, shared })">
          <DialogTitle class="heading mb-1 text-xl">{{ title }}</DialogTitle>
          <p class="quiet mb-4 line-clamp-3 font-serif">{{ brief }}</p>
          <label class="mb-3 block"><span class="mb-1 block font-medium">Name</span><input v-model="name" class="field" name="name" maxlength="120" required /></label>
          <label class="mb-3 block"><span class="mb-1 block font-medium">What it is for</span><textarea v-model="description" class="field" name="description" rows="2" maxlength="2000"></textarea></label>
          <fieldset class="mb-5">
            <legend class="mb-1 font-medium">Who sees it</legend>
            <label class="mr-5 inline-flex items-center gap-1.5"><input v-model="shared" type="radio" name="shared" :value="false" class="accent-mulberry" /> only me</label>
            <label class="inline-flex items-center gap-1.5"><input v-model="shared" type="radio" name="shared" :value="true" class="accent-mulberry" /> everyone</label>
          </fieldset>
          <p v-if="trouble" class="mb-3 text-mulberry" role="alert">{{ trouble }}</p>
          <p class="flex items-center justify-end gap-3">
            <span v-if="deletable" class="mr-auto">
              <button v-if="!sure" type="button" class="link" @click="sure = true">Delete this view …</button>
              <button v-else type="button" class="link" @click="emit('remove')">Delete it for everyone who uses it</button>
            </span>
            <button type="button" class="button" @click="emit('close')">Cancel</button>
            <button type="submit" class="button button-act" :disabled="busy || !name.trim()">Save</button>
          </p>
        </form>
      </DialogPanel>
    </div>
  </Dialog>
</template>
