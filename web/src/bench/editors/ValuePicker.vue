<script setup lang="ts">
import { computed, toRef } from 'vue'
import type { Document, Field } from '../../api/client'
import { wordsOf } from '../../api/problem'
import { pastedValues } from './condition'
import { formatCount } from '../../words'
import { useValues } from '../useValues'

/** Ticks values from a list with counts; a pasted list is taken as it is. */
const values = defineModel<string[]>()
const props = defineProps<{ field: Field; context: Document; leavesOut: boolean }>()

const listed = 200
const { search, data, error } = useValues(toRef(props, 'field'), toRef(props, 'context'), listed)
const most = computed(() => Math.max(1, ...(data.value?.values ?? []).map((v) => v.kept)))
const folded = computed(() => new Set((values.value ?? []).map((v) => v.toLowerCase())))
const ticked = (value: string) => folded.value.has(value.toLowerCase())

function toggle(value: string) {
  values.value = ticked(value)
    ? (values.value ?? []).filter((v) => v.toLowerCase() !== value.toLowerCase())
    : [...(values.value ?? []), value]
}

function paste(event: ClipboardEvent) {
  const pasted = pastedValues(event.clipboardData?.getData('text') ?? '')
  if (pasted.length < 2) return // a word to search for
  event.preventDefault()
  values.value = [...new Set([...(values.value ?? []), ...pasted])]
}

function enter(event: KeyboardEvent) {
  const only = data.value?.values
  if (!search.value || only?.length !== 1 || !only[0]) return // keeps the editor
  event.preventDefault()
  toggle(only[0].value)
  search.value = ''
}
</script>

<template>
  <div>
    <div class="relative">
      <input
        v-model="search"
        data-first
        class="field pr-24"
        type="text"
        placeholder="Type to find a value, or paste a list"
        aria-label="Find a value"
        autocomplete="off"
        @paste="paste"
        @keydown.enter="enter"
      />
      <span v-if="data" class="quiet absolute top-2 right-3 text-xs"
        >{{ formatCount(data.found) }} {{ data.found === 1 ? 'value' : 'values' }}</span
      >
    </div>
    <p v-if="error" class="mt-2 text-mulberry" role="alert">{{ wordsOf(error) }}</p>
    <ul class="mt-2 max-h-60 overflow-auto" aria-label="Values">
      <li v-for="v in data?.values" :key="v.value">
        <label
          class="grid cursor-pointer grid-cols-[auto_1fr_9rem_4.5rem] items-center gap-2.5 py-1 hover:bg-mulberry-wash"
        >
          <input
            type="checkbox"
            class="size-4 accent-mulberry"
            :checked="ticked(v.value)"
            @change="toggle(v.value)"
          />
          <span
            class="truncate"
            :class="leavesOut && ticked(v.value) && 'line-through opacity-70'"
            :title="v.label"
            >{{ v.label }}</span
          >
          <span
            class="h-2"
            :class="ticked(v.value) ? 'bg-mulberry opacity-50' : 'bg-bar'"
            :style="{ width: `${(100 * v.kept) / most}%` }"
          ></span>
          <span class="text-right">{{ formatCount(v.kept) }}</span>
        </label>
      </li>
      <li v-if="data && data.blankAll && !search">
        <label
          class="grid cursor-pointer grid-cols-[auto_1fr_4.5rem] items-center gap-2.5 py-1 hover:bg-mulberry-wash"
        >
          <input type="checkbox" class="size-4 accent-mulberry" :checked="ticked('')" @change="toggle('')" />
          <span class="quiet">blank{{ leavesOut && !ticked('') ? ' (kept)' : '' }}</span>
          <span class="text-right">{{ formatCount(data.blankKept) }}</span>
        </label>
      </li>
    </ul>
    <p v-if="data && data.found > listed" class="quiet mt-1 text-xs">
      The {{ listed }} commonest are listed; type to find others.
    </p>
    <p v-if="values?.length" class="mt-2 flex items-baseline gap-3 text-xs">
      <span>{{ formatCount(values.length) }} chosen</span
      ><button class="link" @click="values = []">choose none</button>
    </p>
  </div>
</template>
