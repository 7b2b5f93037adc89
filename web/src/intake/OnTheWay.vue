<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { queries } from '../api/queries'
import { formatDateTime } from '../words'
import { sizeOf } from './recipe'

/** One's own files that have not become records yet. */
const uploads = useQuery(queries.uploads())
const list = computed(() => uploads.data.value?.uploads ?? [])
const words: Record<string, string> = {
  arriving: 'part of it is here',
  arrived: 'is here, and not read',
  reading: 'is being read',
  read: 'is read, and not brought in',
}
</script>

<template>
  <section v-if="list.length" class="mt-8" aria-label="On their way in">
    <h2 class="heading mb-1 text-lg">On their way in</h2>
    <ul data-on-the-way>
      <li v-for="u in list" :key="u.id" class="flex flex-wrap gap-x-4 border-b border-rule py-1.5">
        <RouterLink class="link" :to="`/bring-in/${u.id}`">{{ u.file }}</RouterLink>
        <span class="quiet">{{ sizeOf(u.size) }}</span>
        <span>{{ words[u.state] }}</span>
        <span class="quiet ml-auto">{{ formatDateTime(u.touched) }}</span>
      </li>
    </ul>
    <p class="quiet mt-1 text-[13px]">What nobody touches for three days goes.</p>
  </section>
</template>
