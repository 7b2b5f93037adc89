<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'

/**
 * Every dialog: a sheet over the veiled page with its title, and, if it closes by itself, a button for
 * that. Esc and a click beside it ask to close it; the focus stays in it and goes back after.
 */
defineOptions({ inheritAttrs: false })
const { width = 560, tone = 'ink' } = defineProps<{
  title: string
  tone?: 'ink' | 'mulberry' | 'honey'
  /** In CSS pixels; narrower where the window is. */
  width?: number
  /** Has acts of its own, and so no button that only closes. */
  acts?: boolean
  /** The title is for screen readers alone. */
  untitled?: boolean
}>()
const emit = defineEmits<{ close: [] }>()
const tones = { ink: 'border-t-ink', mulberry: 'border-t-mulberry', honey: 'border-t-honey' }
</script>

<template>
  <Dialog :open="true" class="relative z-50" @close="emit('close')">
    <div class="fixed inset-0 bg-veil" aria-hidden="true"></div>
    <div class="fixed inset-0 flex items-start justify-center overflow-auto px-3 py-[8vh]">
      <DialogPanel
        class="max-w-full border border-t-3 border-rule bg-sheet p-6 shadow-xl max-sm:p-4"
        :class="tones[tone]"
        :style="{ width: `${width}px` }"
        v-bind="$attrs"
      >
        <DialogTitle :class="untitled ? 'sr-only' : 'heading mb-3 text-xl'">{{ title }}</DialogTitle>
        <slot></slot>
        <p v-if="!acts" class="mt-5 text-right">
          <button type="button" class="button" @click="emit('close')">Close</button>
        </p>
      </DialogPanel>
    </div>
  </Dialog>
</template>
