<script setup lang="ts">
import { ref } from 'vue'
import { acceptedFiles } from './recipe'

/** Where a file is dropped or chosen. */
defineProps<{ large?: boolean }>()
const emit = defineEmits<{ chosen: [file: File] }>()
const over = ref(false)
function dropped(event: DragEvent) {
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) emit('chosen', file)
}
function picked(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) emit('chosen', file)
}
</script>

<template>
  <label
    class="block cursor-pointer border border-dashed px-6 text-center focus-within:outline-2"
    :class="[over ? 'border-mulberry bg-mulberry-wash' : 'border-edge', large ? 'py-14' : 'py-4']"
    data-drop
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <span class="link">Choose a file</span>, or drop it here
    <span class="quiet mt-1 block text-[13px]">CSV or TSV, a spreadsheet (.xlsx), JSON Lines, Parquet</span>
    <input type="file" class="sr-only" :accept="acceptedFiles" data-file @change="picked" />
  </label>
</template>
