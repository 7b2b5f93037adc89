<script setup lang="ts">
import { useTitle } from '@vueuse/core'
import { computed, ref, toRef } from 'vue'
import { useRouter } from 'vue-router'
import { wordsOf } from '../api/problem'
import FactFields from '../facts/FactFields.vue'
import FilledStrip from '../facts/FilledStrip.vue'
import type { Filled } from '../facts/useFilling'
import { stayOnScreen } from '../router'
import { useCommands } from '../shell/commands'
import { formatCount } from '../words'
import LinkedRecords from './LinkedRecords.vue'
import { useTrail } from './trail'
import { useRecord } from './useRecord'

/** One record whole, with the records it links to and those that link to it. */
const props = defineProps<{ set: string; recordKey: string }>()
const router = useRouter()
const { catalog, sets, here, own, links, run, line, cell, title } = useRecord(
  toRef(props, 'set'),
  toRef(props, 'recordKey'),
)
useTitle(
  computed(() => `${title.value} · Gavrik`),
  { restoreOnUnmount: () => 'Gavrik' },
)

/** What was filled in here last, with the way back. */
const filled = ref<Filled | null>(null)

const { trail, at, before, after, move, kept } = useTrail(toRef(props, 'set'), toRef(props, 'recordKey'))
/** Goes to a record beside this one; the screen stays, and the focus where it is. */
function to(key: string | undefined) {
  if (!key) return
  move(key)
  stayOnScreen()
  void router.replace(`/r/${props.set}/${encodeURIComponent(key)}`)
}
useCommands(() => [
  {
    id: 'record before',
    title: 'The record before',
    key: 'ArrowLeft',
    when: () => at.value >= 0,
    run: () => to(before.value),
  },
  {
    id: 'record after',
    title: 'The record after',
    key: 'ArrowRight',
    when: () => at.value >= 0,
    run: () => to(after.value),
  },
  {
    id: 'back',
    title: 'Back to the view',
    key: 'Escape',
    when: () => !!trail.value,
    run: () => void router.push(trail.value?.from ?? '/'),
  },
])
</script>

<template>
  <main class="overflow-auto px-10 py-6 max-md:px-4 max-md:py-4">
    <p class="mb-1 flex items-baseline gap-4 text-[13px]">
      <RouterLink v-if="trail && at >= 0" class="link" :to="trail.from">Back to the view</RouterLink>
      <span class="quiet">{{ here?.one }}</span>
      <template v-if="at >= 0">
        <button
          class="link ml-auto aria-disabled:opacity-45"
          :aria-disabled="!before"
          title="←"
          data-before
          @click="to(before)"
        >
          previous
        </button>
        <span class="quiet" data-of>of {{ formatCount(kept) }} in the view</span>
        <button
          class="link aria-disabled:opacity-45"
          :aria-disabled="!after"
          title="→"
          data-after
          @click="to(after)"
        >
          next
        </button>
      </template>
    </p>
    <FilledStrip v-if="filled" :key="filled.batch" class="mb-3" :filled="filled" @gone="filled = null" />
    <h1 class="heading mb-4 text-2xl" data-record>{{ title }}</h1>
    <p v-if="run.error.value" role="alert">{{ wordsOf(run.error.value) }}</p>
    <p v-else-if="run.data.value && !line" role="alert">
      There is no {{ here?.one }} “{{ recordKey }}”. It may have been removed since.
    </p>
    <p v-else-if="catalog.data.value && !here?.address" role="alert">
      {{ here?.label ?? set }} have no field that tells one from all others, so none can be opened by itself.
    </p>
    <div
      v-else-if="line && here"
      class="grid grid-cols-[minmax(0,5fr)_minmax(0,7fr)] gap-10 max-md:grid-cols-1 max-md:gap-6"
    >
      <dl class="grid grid-cols-[10rem_minmax(0,1fr)] content-start max-md:grid-cols-[8rem_minmax(0,1fr)]">
        <template v-for="f in own" :key="f.path">
          <dt class="quiet border-b border-rule py-1 pr-3" :title="f.meaning">{{ f.label }}</dt>
          <dd class="border-b border-rule py-1" :class="f.kind && 'text-honey'" :data-field="f.path">
            <img
              v-if="f.type === 'picture' && cell(f.path).startsWith('data:image/')"
              :src="cell(f.path)"
              :alt="f.label"
              class="max-h-28"
            /><template v-else>{{ cell(f.path) }}</template>
          </dd>
        </template>
        <dd class="col-span-2 py-2">
          <FactFields
            :set="set"
            :one="here.one"
            :many="here.label.toLowerCase()"
            :fields="own"
            :records="[recordKey]"
            @filled="filled = $event"
          />
        </dd>
        <template v-for="l in links" :key="l.key">
          <dt class="quiet border-b border-rule py-1 pr-3">{{ l.label }}</dt>
          <dd class="border-b border-rule py-1">
            <RouterLink
              v-if="cell(l.address)"
              class="link"
              :to="`/r/${l.to}/${encodeURIComponent(cell(l.address))}`"
              >{{ cell(l.name) || cell(l.address) }}</RouterLink
            >
          </dd>
        </template>
      </dl>
      <div>
        <template v-for="l in here.linkedBy" :key="`${l.records} ${l.by}`">
          <LinkedRecords
            v-if="!l.by.includes('.') && sets.get(l.records)"
            :set="sets.get(l.records)!"
            :label="l.label"
            :by="`${l.by}.${here.address}`"
            :value="recordKey"
            :way="l.way"
          />
        </template>
        <p v-if="!here.linkedBy.length" class="quiet">
          No other records link to {{ here.one === 'person' ? 'people' : here.label.toLowerCase() }}.
        </p>
      </div>
    </div>
    <p v-else class="quiet">Looking it up …</p>
  </main>
</template>
