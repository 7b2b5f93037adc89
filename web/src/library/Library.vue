<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, body } from '../api/client'
import { wordsOf } from '../api/problem'
import { useMe } from '../session/useMe'
import { searchWords } from '../words'

const views = useQuery({ queryKey: ['views'], queryFn: () => body(api.GET('/api/views')) })
const { me } = useMe()
const words = ref('')
const found = computed(() => {
  const wanted = searchWords(words.value)
  return (views.data.value?.views ?? []).filter((v) =>
    wanted.every((w) => `${v.name} ${v.about} ${v.brief} ${v.records} ${v.owner}`.toLowerCase().includes(w)),
  )
})
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })
</script>

<template>
  <main class="overflow-auto px-10 py-6">
    <div class="mb-4 flex items-baseline gap-6">
      <h1 class="heading text-2xl">Views</h1>
      <input v-model="words" class="field max-w-md" type="search" placeholder="Find by name, words, record set or owner" aria-label="Find a view" />
      <span class="quiet">{{ found.length }} of {{ views.data.value?.views.length ?? 0 }}</span>
    </div>
    <p v-if="views.error.value" role="alert">{{ wordsOf(views.error.value) }}</p>
    <table v-else class="w-full border-collapse text-left">
      <thead>
        <tr class="border-b border-rule text-mute">
          <th class="py-2 font-medium">Name and what it says</th>
          <th class="w-32 font-medium">Rows are</th>
          <th class="w-36 font-medium">Owner</th>
          <th class="w-28 font-medium">Seen by</th>
          <th class="w-40 text-right font-medium">Saved</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="v in found" :key="v.key" class="border-b border-rule align-baseline">
          <td class="max-w-0 py-2.5 pr-6">
            <RouterLink :to="`/v/${v.key}`" class="heading block truncate text-base hover:underline">{{ v.name }}</RouterLink>
            <span v-if="v.about" class="block truncate">{{ v.about }}</span>
            <span class="block truncate" :class="v.broken ? 'text-mulberry' : 'quiet'" :title="v.brief">{{ v.brief }}</span>
          </td>
          <td>{{ v.records }}</td>
          <td>{{ v.owner === me?.name ? 'you' : v.owner }}</td>
          <td>{{ v.shared ? 'everyone' : 'only you' }}</td>
          <td class="text-right">{{ day.format(new Date(v.savedAt)) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="views.data.value && !found.length" class="quiet py-6">
      {{ words ? 'No view matches these words.' : 'No view is saved yet. Start one from your desk.' }}
    </p>
  </main>
</template>
