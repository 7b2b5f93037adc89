<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { computed } from 'vue'
import type { View } from '../api/client'

/** Keeps a view at hand on one's own desk, or on those of a group or of everyone it is shared with. */
const props = defineProps<{ view: View }>()
const emit = defineEmits<{ set: [whose: { everyone?: boolean; group?: number; on: boolean }] }>()
const kept = computed(() => props.view.mine || props.view.everyones || props.view.groups.length > 0)
const desks = computed(() => [
  { label: 'On my desk', on: props.view.mine, whose: {} },
  ...(props.view.owned && props.view.shares.some((s) => !s.group && !s.role)
    ? [{ label: 'On everyone’s desk', on: props.view.everyones, whose: { everyone: true } }]
    : []),
  ...(props.view.owned ? props.view.shares.filter((s) => s.group) : []).map((s) => ({
    label: `On the desks of ${s.name}`,
    on: props.view.groups.some((g) => g.id === s.group),
    whose: { group: s.group },
  })),
])
</script>

<template>
  <Menu as="div" class="relative">
    <MenuButton class="button" data-keep>{{ kept ? '★ Favorite' : '☆ Favorite' }}</MenuButton>
    <MenuItems class="absolute right-0 z-40 mt-1 w-64 border border-rule bg-sheet py-1 shadow-lg">
      <MenuItem v-for="d in desks" :key="d.label" v-slot="{ active }">
        <button
          class="flex w-full justify-between px-3 py-2 text-left"
          :class="active && 'bg-mulberry-wash'"
          @click="emit('set', { ...d.whose, on: !d.on })"
        >
          {{ d.label }} <span>{{ d.on ? '✓' : '' }}</span>
        </button>
      </MenuItem>
      <p v-if="!view.owned" class="quiet px-3 pb-2 text-xs">
        Only {{ view.owner }} can put it on other people’s.
      </p>
      <p v-else-if="!view.shares.length" class="quiet px-3 pb-2 text-xs">
        Share it first to put it on other people’s.
      </p>
    </MenuItems>
  </Menu>
</template>
