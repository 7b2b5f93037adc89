<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Board } from '../api/client'
import { wordsOf } from '../api/problem'
import { NotShared, useSource, type Source } from '../work/useSource'
import BoardScreen from './BoardScreen.vue'
import { newBoard } from './document'

/** Opens the board that the address leads to: as it is saved, a state of work on it, or a new one. */
const route = useRoute()
const router = useRouter()
const source = useSource<Board>()
const opened = shallowRef<Source<Board> | null>(null)
const trouble = ref('')
const text = (value: unknown) => (typeof value === 'string' ? value : '')

async function open() {
  const key = text(route.params.key)
  const state = text(route.query.at)
  const at = { place: route.path, key: key === 'new' ? '' : key, state, from: text(route.query.from) }
  try {
    opened.value = await source.open(at, (from) => {
      if (from && !('parts' in from.document))
        return Promise.reject(new Error(`“${from.name}” is a view. Open it from the list of views.`))
      return Promise.resolve(from?.document ?? newBoard)
    })
  } catch (error) {
    if (error instanceof NotShared) await router.replace(`/b/new?at=${state}`)
    else trouble.value = wordsOf(error)
  }
}
void open()
</script>

<template>
  <BoardScreen v-if="opened" :source="opened" />
  <main v-else-if="trouble" class="p-10" role="alert">
    <h1 class="heading mb-2 text-2xl">This cannot be opened</h1>
    <p class="mb-4">{{ trouble }}</p>
    <RouterLink class="link" to="/boards">Go to the boards</RouterLink>
  </main>
</template>
