<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import type { Me } from '../api/client'
import PasswordDialog from '../session/PasswordDialog.vue'
import SecondFactor from '../session/SecondFactor.vue'
import SignInsDialog from '../session/SignInsDialog.vue'
import TokensDialog from '../session/TokensDialog.vue'
import { useSession } from '../session/useMe'
import ActionMenu, { type MenuSection } from './ActionMenu.vue'
import { runCommand } from './commands'
import Mark from './Mark.vue'
import { placesOf } from './places'

const LetterheadDialog = defineAsyncComponent(() => import('../takeaway/LetterheadDialog.vue'))
const props = defineProps<{ me: Me }>()
const { signOut, signOutEverywhere } = useSession()
const changing = ref(false)
const tokens = ref(false)
const where = ref(false)
const second = ref(false)
const letterhead = ref(false)
const initials = computed(() =>
  props.me.name
    .split(/\s+/)
    .map((w) => w.charAt(0))
    .join('')
    .slice(0, 2)
    .toUpperCase(),
)
const acts = computed<MenuSection[]>(() => [
  {
    acts: [
      ...(props.me.password
        ? [
            { id: 'password', title: 'Change password …', run: () => (changing.value = true) },
            { id: 'second', title: 'Second factor …', run: () => (second.value = true) },
          ]
        : []),
      { id: 'tokens', title: 'Tokens for programs …', run: () => (tokens.value = true) },
      { id: 'where', title: 'Where I am signed in …', run: () => (where.value = true) },
      { id: 'keys', title: 'Keys …', key: '?', run: () => runCommand('keys') },
    ],
  },
  ...(props.me.administrator
    ? [{ acts: [{ id: 'letterhead', title: 'Letterhead …', run: () => (letterhead.value = true) }] }]
    : []),
  {
    acts: [
      { id: 'out-everywhere', title: 'Sign out everywhere', run: () => signOutEverywhere.mutate() },
      { id: 'out', title: 'Sign out', run: () => signOut.mutate() },
    ],
  },
])
</script>

<template>
  <header
    class="flex h-11 shrink-0 items-center gap-6 bg-band px-5 text-on-band max-md:gap-2 max-md:px-3 print:hidden"
  >
    <RouterLink to="/" aria-label="gavrik, your desk"><Mark class="max-sm:[&>span]:hidden" /></RouterLink>
    <nav class="mr-auto flex h-full min-w-0 gap-1 overflow-x-auto" aria-label="Main">
      <RouterLink
        v-for="p in placesOf(me)"
        :key="p.to"
        :to="p.to"
        class="flex items-center border-b-2 border-transparent px-2 pt-0.5 opacity-85 hover:opacity-100"
        exact-active-class="!border-[#d9a441] font-medium !opacity-100"
        >{{ p.label }}</RouterLink
      >
    </nav>
    <ActionMenu
      class="grid size-7 place-items-center rounded-full bg-[#d9a441] text-xs font-semibold text-[#23201b]"
      :aria-label="`${initials}: signed in as ${me.name}`"
      :sections="acts"
      >{{ initials
      }}<template #head
        ><p class="px-3 py-2">
          <b class="block font-medium">{{ me.name }}</b><span class="quiet block">{{ me.email }}</span
          ><span class="quiet text-xs">{{ me.role }}</span>
        </p></template
      ></ActionMenu
    >
    <PasswordDialog v-if="changing" @close="changing = false" />
    <TokensDialog v-if="tokens" @close="tokens = false" />
    <SignInsDialog v-if="where" @close="where = false" />
    <LetterheadDialog v-if="letterhead" @close="letterhead = false" />
    <SecondFactor v-if="second" :on="me.second" @close="second = false" />
  </header>
</template>
