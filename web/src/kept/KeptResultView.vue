<script setup lang="ts">
import { computed, defineAsyncComponent, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import type { Field, Schemas } from '../api/client'
import LevelChoice from '../bench/LevelChoice.vue'
import Ledger from '../bench/ledger/Ledger.vue'
import Tally from '../bench/Tally.vue'
import { useHistory } from '../work/useHistory'
import { useOpening } from '../bench/useOpening'
import { useRun } from '../bench/useRun'
import { useSelection } from '../bench/useSelection'
import { formatDateTime } from '../words'

/** The ledger of a kept result: it is read, opened level by level and taken away; nothing in it changes. */
const props = defineProps<{ kept: Schemas['OpenKeptOutputBody'] }>()
const TakeAway = defineAsyncComponent(() => import('../takeaway/TakeAway.vue'))
const router = useRouter()
const document = shallowRef(props.kept.document)
const history = useHistory({ key: '', document: document.value })
const opening = useOpening(document)
const run = useRun(document, opening.now, ref(false), props.kept.key)
const selection = useSelection(history, { address: '' }, ref<ReadonlyMap<string, Field>>(new Map()))
const taking = ref(false)
const said = ref('')
const trouble = computed(() => (run.state.value.kind === 'failed' ? run.state.value.problem.message : ''))
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
    <p v-if="trouble" class="border-b border-rule bg-mulberry-wash px-5 py-2" role="alert">{{ trouble }}</p>
    <nav
      v-if="run.result.value?.levels.length"
      class="flex items-center gap-4 border-b border-rule bg-sheet px-5 py-1.5 text-[13px] whitespace-nowrap"
      aria-label="Show down to"
    >
      <LevelChoice
        :levels="run.result.value.levels"
        :depth="opening.now.value.depth"
        :record="document.across?.length ? undefined : 'Records'"
        @show="opening.showDownTo"
      />
    </nav>
    <template v-if="run.result.value">
      <div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)]">
        <Ledger
          class="min-h-0"
          :run="run"
          :result="run.result.value"
          :document="document"
          :records-shown="opening.records.value"
          :selection="selection"
          :fillable="() => false"
          @toggle="opening.toggle"
          @say="(text) => (said = text)"
          @open="(record) => router.push(`/r/${document.records}/${encodeURIComponent(record)}`)"
        />
      </div>
      <Tally :result="run.result.value" :running="run.state.value.kind === 'running'" :said="said" />
    </template>
    <p v-else-if="!trouble" class="quiet flex-1 p-10">Reading …</p>
    <TakeAway
      v-if="taking"
      :of="{
        memory: kept.view,
        name: `${kept.viewName}, ${kept.asOfText.replace(',', '')}`,
        document,
        kept: kept.key,
        depth: opening.now.value.depth,
      }"
      @close="taking = false"
      @said="(text) => (said = text)"
    />
  </main>
</template>
