<script setup lang="ts">
import { Dialog, DialogPanel } from '@headlessui/vue'

/**
 * The sheet that a dialog stands on, over the veiled page. Its width and the colour of its
 * upper edge are classes of whoever uses it; so is the distance from the top.
 */
defineOptions({ inheritAttrs: false })
defineProps<{ top: string }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <Dialog :open="true" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-veil" aria-hidden="true"></div>
    <div class="fixed inset-0 flex items-start justify-center overflow-auto" :class="top">
      <DialogPanel class="border border-t-3 border-rule bg-sheet p-6 shadow-xl" v-bind="$attrs"
        ><slot></slot
      ></DialogPanel>
    </div>
  </Dialog>
</template>
