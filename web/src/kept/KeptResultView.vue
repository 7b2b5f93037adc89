<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../api/client'
import { formatDateTime } from '../words'
import FrozenLedger from './FrozenLedger.vue'

/** A kept result: nothing in it changes. */
defineProps<{ kept: Schemas['OpenKeptOutputBody'] }>()
const taking = ref(false)
</script>

<template>
  <main class="flex min-h-0 flex-col" data-kept-result>
    <section class="border-b border-rule border-l-4 border-l-slate bg-paper px-5 pt-3 pb-3 max-md:px-3">
      <div class="mb-1 flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1 class="truncate text-[15px] font-semibold">
          {{ kept.viewName }}<template v-if="kept.name"> · {{ kept.name }}</template>
        </h1>
        <span class="text-slate" data-as-it-was>as it was on {{ kept.asOfText }}</span>
        <span class="quiet text-xs"
          >kept by {{ kept.by }}, {{ formatDateTime(kept.at) }}; v{{ kept.version }} of the view</span
        >
        <div class="ml-auto flex gap-2">
          <RouterLink class="button" :to="`/k/${kept.key}/differences`">What changed since</RouterLink>
          <RouterLink class="button" :to="`/v/${kept.view}/kept`">All kept</RouterLink>
          <button class="button" data-take-kept @click="taking = true">Take away</button>
        </div>
      </div>
      <p class="font-serif text-lg" data-sentence>{{ kept.sentence }}</p>
    </section>
    <FrozenLedger
      v-model:taking="taking"
      :frozen="{ kept: kept.key }"
      :document="kept.document"
      :view="kept.view"
      :name="`${kept.viewName}, ${kept.asOfText.replace(',', '')}`"
      records
    />
  </main>
</template>
