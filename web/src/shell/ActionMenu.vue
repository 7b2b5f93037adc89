<script lang="ts">
/** One thing that can be done from a menu. */
export interface MenuAct {
  id: string
  title: string
  key?: string
  /** Something that is on or off. */
  checked?: boolean
  run: () => void
}
/** Acts that belong together, with a word over or under them. */
export interface MenuSection {
  heading?: string
  note?: string
  acts: readonly MenuAct[]
}
</script>

<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'

// What it is called by and looks like belongs to its button.
defineOptions({ inheritAttrs: false })
defineProps<{ sections: readonly MenuSection[] }>()
</script>

<template>
  <Menu as="div" class="relative">
    <MenuButton v-bind="$attrs"><slot></slot></MenuButton>
    <MenuItems
      class="absolute right-0 z-40 mt-1 max-h-[80vh] w-72 overflow-auto border border-rule bg-sheet py-1 text-ink shadow-lg"
    >
      <slot name="head"></slot>
      <div
        v-for="(section, i) in sections"
        :key="i"
        role="none"
        class="border-t border-rule py-1 first:border-0"
      >
        <p v-if="section.heading" class="quiet px-3 pt-1 text-xs">{{ section.heading }}</p>
        <MenuItem v-for="act in section.acts" :key="act.id" v-slot="{ active }">
          <button
            class="flex w-full items-baseline justify-between gap-3 px-3 py-1.5 text-left"
            :class="active && 'bg-mulberry-wash'"
            :aria-checked="act.checked"
            :role="act.checked === undefined ? 'menuitem' : 'menuitemcheckbox'"
            :data-act="act.id"
            @click="act.run"
          >
            {{ act.title }}<span v-if="act.checked" aria-hidden="true">✓</span
            ><kbd v-else-if="act.key" class="key">{{ act.key }}</kbd>
          </button>
        </MenuItem>
        <p v-if="section.note" class="quiet px-3 pb-1 text-xs">{{ section.note }}</p>
      </div>
    </MenuItems>
  </Menu>
</template>
