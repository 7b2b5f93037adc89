<script setup lang="ts">
import type { RecordSet } from '../api/client'
import { formatSize } from '../words'

/** Starts a view: what is one row? */
defineProps<{ sets: readonly RecordSet[]; loading: boolean; why?: ReadonlyMap<string, string> }>()
</script>

<template>
  <section aria-labelledby="start">
    <h2 id="start" class="border-b border-rule pb-2 font-medium text-mute">Start a view: what is one row?</h2>
    <ul>
      <li v-for="s in sets" :key="s.key" class="group/line relative">
        <RouterLink
          :to="`/new/${s.key}?blank`"
          class="absolute right-0 bottom-1.5 bg-paper pl-2 text-xs text-mulberry underline underline-offset-2 opacity-0 group-hover/line:opacity-100 focus:opacity-100"
          :aria-label="`A blank view of ${s.label}`"
          >blank</RouterLink
        >
        <RouterLink :to="`/new/${s.key}`" class="group block border-b border-rule py-1.5">
          <span class="flex items-baseline justify-between">
            <b class="font-medium group-hover:underline">{{ s.label }}</b>
            <span>{{ formatSize(s) }}</span>
          </span>
          <span v-if="why?.get(s.key)" class="block truncate text-xs text-pine" :title="why.get(s.key)">{{
            why.get(s.key)
          }}</span>
          <span v-else class="quiet block truncate text-xs" :title="s.grain">{{ s.grain }}</span>
        </RouterLink>
      </li>
    </ul>
    <p v-if="!sets.length && !loading" class="quiet py-3">No record set has to do with that.</p>
  </section>
</template>
