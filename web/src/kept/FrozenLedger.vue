<script setup lang="ts">
import { computed, defineAsyncComponent, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import type { Document, Field } from '../api/client'
import type { Frozen } from '../api/frozen'
import ChartPart from '../boards/parts/ChartPart.vue'
import LevelChoice from '../bench/LevelChoice.vue'
import Ledger from '../bench/ledger/Ledger.vue'
import Tally from '../bench/Tally.vue'
import { useOpening } from '../bench/useOpening'
import { useRun } from '../bench/useRun'
import { useSelection } from '../bench/useSelection'
import { useHistory } from '../work/useHistory'

/** The ledger of what does not change: it is read, opened level by level and taken away. */
const props = defineProps<{
  frozen: Frozen
  document: Document
  /** The view that it is of, and what files are called. */
  view: string
  name: string
  /** Its records can be seen. */
  records: boolean
}>()
const taking = defineModel<boolean>('taking', { required: true })
const TakeAway = defineAsyncComponent(() => import('../takeaway/TakeAway.vue'))
const router = useRouter()
const document = shallowRef(props.document)
const history = useHistory({ key: '', document: document.value })
const opening = useOpening(document)
const run = useRun(document, opening.now, ref(false), props.frozen)
const selection = useSelection(history, { address: '' }, ref<ReadonlyMap<string, Field>>(new Map()))
const said = ref('')
const trouble = computed(() => (run.state.value.kind === 'failed' ? run.state.value.problem.message : ''))
const drawing = computed(() => (!props.records && run.result.value?.chart) || null)
const deepest = computed(() => (props.records && !document.value.across?.length ? 'Records' : undefined))
</script>

<template>
  <p v-if="trouble" class="border-b border-rule bg-mulberry-wash px-5 py-2" role="alert">{{ trouble }}</p>
  <nav
    v-if="run.result.value?.levels.length"
    class="flex items-center gap-4 border-b border-rule bg-sheet px-5 py-1.5 text-[13px] whitespace-nowrap"
    aria-label="Show down to"
  >
    <LevelChoice
      :levels="run.result.value.levels"
      :depth="opening.now.value.depth"
      :record="deepest"
      @show="opening.showDownTo"
    />
  </nav>
  <template v-if="run.result.value">
    <div
      class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)]"
      :class="drawing && 'grid-rows-[minmax(200px,2fr)_minmax(0,3fr)]'"
    >
      <div v-if="drawing" class="min-h-0 border-b border-rule bg-sheet" data-chart>
        <ChartPart :drawing="drawing" :spec="document.chart ?? {}" :view="view" :answers="{}" fixed />
      </div>
      <Ledger
        class="min-h-0"
        :run="run"
        :result="run.result.value"
        :document="document"
        :records-shown="records && opening.records.value"
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
    :of="{ memory: view, name, document, frozen, depth: opening.now.value.depth }"
    @close="taking = false"
    @said="(text) => (said = text)"
  />
</template>
