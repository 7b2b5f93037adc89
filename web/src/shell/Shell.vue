<script setup lang="ts">
import { ref } from 'vue'
import type { Me } from '../api/client'
import { screen } from '../router'
import PasswordDialog from '../session/PasswordDialog.vue'
import SecondFactor from '../session/SecondFactor.vue'
import MakingStrip from '../takeaway/MakingStrip.vue'
import { useCommands, useKeys } from './commands'
import FindAnything from './FindAnything.vue'
import KeysDialog from './KeysDialog.vue'
import TopBar from './TopBar.vue'

/** What is around every screen of somebody who is signed in: the line at the top, finding, and keys. */
defineProps<{ me: Me }>()
const finding = ref(false)
const keysShown = ref(false)
useKeys()
useCommands(() => [
  {
    id: 'find',
    title: 'Find any view, field, record set, definition or command',
    key: 'Ctrl K',
    anywhere: true,
    run: () => (finding.value = true),
  },
  { id: 'keys', title: 'Keys …', key: '?', run: () => (keysShown.value = true) },
])
</script>

<template>
  <div class="flex h-dvh flex-col print:block print:h-auto">
    <TopBar :me="me" />
    <PasswordDialog v-if="me.changing" first />
    <SecondFactor v-else-if="me.secondDue" :on="false" due />
    <RouterView v-else :key="screen" class="min-h-0 flex-1" />
    <MakingStrip />
    <FindAnything v-if="finding" @close="finding = false" />
    <KeysDialog v-if="keysShown" @close="keysShown = false" />
  </div>
</template>
