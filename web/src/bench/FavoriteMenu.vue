<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import type { View } from '../api/client'

/** Keeps a view at hand on one's own desk, or on everyone's. */
defineProps<{ view: View }>()
const emit = defineEmits<{ set: [everyone: boolean, on: boolean] }>()
</script>

<template>
  <Menu as="div" class="relative">
    <MenuButton class="button">{{ view.mine || view.everyones ? '★ Favorite' : '☆ Favorite' }}</MenuButton>
    <MenuItems class="absolute right-0 z-40 mt-1 w-64 border border-rule bg-sheet py-1 shadow-lg">
      <MenuItem v-slot="{ active }">
        <button class="flex w-full justify-between px-3 py-2 text-left" :class="active && 'bg-mulberry-wash'" @click="emit('set', false, !view.mine)">
          On my desk <span>{{ view.mine ? '✓' : '' }}</span>
        </button>
      </MenuItem>
      <MenuItem v-slot="{ active }" :disabled="!view.editable || !view.shared">
        <button class="flex w-full justify-between px-3 py-2 text-left disabled:opacity-100" :class="[active && 'bg-mulberry-wash', (!view.editable || !view.shared) && 'quiet']" :disabled="!view.editable || !view.shared" @click="emit('set', true, !view.everyones)">
          On everyone’s desk <span>{{ view.everyones ? '✓' : '' }}</span>
        </button>
      </MenuItem>
      <p v-if="!view.editable" class="quiet px-3 pb-2 text-xs">Only {{ view.owner }} can put it on everyone’s.</p>
      <p v-else-if="!view.shared" class="quiet px-3 pb-2 text-xs">Share it with everyone first: Save as … or its name.</p>
    </MenuItems>
  </Menu>
</template>
