<script setup lang="ts">
import { computed, toRef } from 'vue'
import type { Field, RunResult } from '../../api/client'
import FactFields from '../../facts/FactFields.vue'
import type { Filled } from '../../facts/useFilling'
import { useRecord } from '../../record/useRecord'
import LinkedCount from './LinkedCount.vue'
import type { Selection } from '../useSelection'

/** Looks at one record: the cell that was chosen, its fields, and the records that link to it. */
const props = defineProps<{
  set: string
  selection: Selection
  result: RunResult
  byPath: ReadonlyMap<string, Field>
}>()
const emit = defineEmits<{
  open: [record: string]
  keepValue: [field: Field, value: string]
  leaveOut: [field: Field, value: string]
  tick: [record: string]
  filled: [filled: Filled]
}>()

const key = computed(() => props.selection.line.record ?? '')
const { sets, here, own, line, cell, title } = useRecord(toRef(props, 'set'), key)
const head = computed(() => props.result.columns[props.selection.head])
const field = computed(() => props.byPath.get(head.value?.field ?? ''))
const text = computed(() => props.selection.line.cells[props.selection.head] ?? '')
const listable = computed(
  () => field.value && (field.value.type === 'text' || field.value.type === 'yesno' || !text.value),
)
const filled = computed(() => own.value.filter((f) => cell(f.path) && f.type !== 'picture'))
const linkedBy = computed(() => (here.value?.linkedBy ?? []).filter((l) => !l.by.includes('.')))
</script>

<template>
  <div data-record-lens>
    <h2 class="heading text-base">{{ title }}</h2>
    <p class="quiet mb-3 text-xs">{{ here?.one }}</p>
    <section v-if="field && listable" class="mb-3 border-y border-rule py-2">
      <p class="truncate">
        <span class="quiet">{{ head?.heading }}</span> <b class="font-medium">{{ text || 'blank' }}</b>
      </p>
      <p class="flex gap-4 text-[13px]">
        <button class="link" data-keep-cell @click="emit('keepValue', field, text)">keep only these</button
        ><button class="link" data-drop-cell @click="emit('leaveOut', field, text)">leave these out</button>
      </p>
    </section>
    <div class="mb-3 grid grid-cols-2 gap-1.5">
      <button class="button !justify-between" @click="emit('open', key)">
        Open <kbd class="key">Enter</kbd>
      </button>
      <button class="button !justify-between" @click="emit('tick', key)">
        Tick <kbd class="key">Space</kbd>
      </button>
    </div>
    <dl v-if="line" class="mb-3">
      <div
        v-for="f in filled"
        :key="f.path"
        class="grid grid-cols-[7rem_1fr] gap-x-2 border-b border-rule py-0.5 text-[13px]"
      >
        <dt class="quiet truncate" :title="f.meaning || f.label">{{ f.label }}</dt>
        <dd class="truncate" :class="f.kind && 'text-honey'" :title="cell(f.path)">{{ cell(f.path) }}</dd>
      </div>
    </dl>
    <FactFields
      v-if="here"
      class="mb-3"
      :set="set"
      :one="here.one"
      :many="here.label.toLowerCase()"
      :fields="own"
      :records="[key]"
      @filled="emit('filled', $event)"
    />
    <template v-if="linkedBy.length">
      <h3 class="quiet mb-1 text-xs">Linked to it</h3>
      <LinkedCount
        v-for="l in linkedBy"
        :key="`${l.records} ${l.by}`"
        :set="sets.get(l.records)"
        :by="`${l.by}.${here?.address}`"
        :value="key"
        :way="l.way"
      />
    </template>
  </div>
</template>
