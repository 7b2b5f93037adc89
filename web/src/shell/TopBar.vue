<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { computed, ref } from 'vue'
import type { Me } from '../api/client'
import PasswordDialog from '../session/PasswordDialog.vue'
import SecondFactor from '../session/SecondFactor.vue'
import SignInsDialog from '../session/SignInsDialog.vue'
import TokensDialog from '../session/TokensDialog.vue'
import { useSession } from '../session/useMe'
import Mark from './Mark.vue'

const props = defineProps<{ me: Me }>()
const { signOut, signOutEverywhere } = useSession()
const changing = ref(false)
const tokens = ref(false)
const where = ref(false)
const second = ref(false)
const initials = computed(() =>
  props.me.name
    .split(/\s+/)
    .map((w) => w.charAt(0))
    .join('')
    .slice(0, 2)
    .toUpperCase(),
)
const places = computed(() => [
  { to: '/', label: 'Desk' },
  { to: '/views', label: 'Views' },
  { to: '/records', label: 'Records' },
  { to: '/definitions', label: 'Definitions' },
  ...(props.me.administrator ? [{ to: '/people', label: 'People' }] : []),
])
</script>

<template>
  <header class="flex h-11 shrink-0 items-center gap-6 bg-band px-5 text-on-band">
    <RouterLink to="/" aria-label="gavrik, your desk"><Mark /></RouterLink>
    <nav class="flex h-full gap-1" aria-label="Main">
      <RouterLink
        v-for="p in places"
        :key="p.to"
        :to="p.to"
        class="flex items-center border-b-2 border-transparent px-2 pt-0.5 opacity-85 hover:opacity-100"
        exact-active-class="!border-[#d9a441] font-medium !opacity-100"
        >{{ p.label }}</RouterLink
      >
    </nav>
    <Menu as="div" class="relative ml-auto">
      <MenuButton
        class="grid size-7 place-items-center rounded-full bg-[#d9a441] text-xs font-semibold text-[#23201b]"
        :aria-label="`${initials}: signed in as ${me.name}`"
      >
        {{ initials }}
      </MenuButton>
      <MenuItems
        class="absolute right-0 z-40 mt-2 w-56 rounded-sm border border-rule bg-sheet py-1 text-ink shadow-lg"
      >
        <p class="border-b border-rule px-3 py-2">
          <b class="block font-medium">{{ me.name }}</b><span class="quiet block">{{ me.email }}</span
          ><span class="quiet text-xs">{{ me.role }}</span>
        </p>
        <MenuItem v-if="me.password" v-slot="{ active }"
          ><button
            class="w-full px-3 py-2 text-left"
            :class="active && 'bg-mulberry-wash'"
            @click="changing = true"
          >
            Change password …
          </button></MenuItem
        >
        <MenuItem v-if="me.password" v-slot="{ active }"
          ><button
            class="w-full px-3 py-2 text-left"
            :class="active && 'bg-mulberry-wash'"
            data-second
            @click="second = true"
          >
            Second factor …
          </button></MenuItem
        >
        <MenuItem v-slot="{ active }"
          ><button
            class="w-full px-3 py-2 text-left"
            :class="active && 'bg-mulberry-wash'"
            @click="tokens = true"
          >
            Tokens for programs …
          </button></MenuItem
        >
        <MenuItem v-slot="{ active }"
          ><button
            class="w-full px-3 py-2 text-left"
            :class="active && 'bg-mulberry-wash'"
            data-where
            @click="where = true"
          >
            Where I am signed in …
          </button></MenuItem
        >
        <MenuItem v-slot="{ active }"
          ><button
            class="w-full px-3 py-2 text-left"
            :class="active && 'bg-mulberry-wash'"
            @click="signOutEverywhere.mutate()"
          >
            Sign out everywhere
          </button></MenuItem
        >
        <MenuItem v-slot="{ active }">
          <button
            class="w-full px-3 py-2 text-left"
            :class="active && 'bg-mulberry-wash'"
            @click="signOut.mutate()"
          >
            Sign out
          </button>
        </MenuItem>
      </MenuItems>
    </Menu>
    <PasswordDialog v-if="changing" @close="changing = false" />
    <TokensDialog v-if="tokens" @close="tokens = false" />
    <SignInsDialog v-if="where" @close="where = false" />
    <SecondFactor v-if="second" :on="me.second" @close="second = false" />
  </header>
</template>
