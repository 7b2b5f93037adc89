<script setup lang="ts">
import { computed, ref } from 'vue'
import type { SetWords } from '../api/client'
import { said, withSet } from './describing'
import Origin from './Origin.vue'
import SayTrouble from './SayTrouble.vue'
import type { Describing } from './useDescribing'
import WordInput from './WordInput.vue'

/** What people say about a record set itself. */
const props = defineProps<{ describing: Describing }>()
const emit = defineEmits<{ done: [] }>()
const { description, saying } = props.describing
const loaded = description.data.value!.loaded
const now = description.data.value!.said
const by = (property: string) => description.data.value?.by[property]
const label = ref(now.label ?? loaded.label)
const one = ref(now.one ?? loaded.one)
const many = ref(now.many ?? '')
const grain = ref(now.grain ?? loaded.grain)
const name = ref(now.name ?? loaded.name)
const key = ref(now.key ?? '')
const hidden = ref(now.hidden ?? false)
const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1)
/** What several are called in running text unless something else is said. */
const usual = computed(() => (said(label.value, loaded.label) ? lower(label.value.trim()) : loaded.many))
const called = (field: string) =>
  now.fields?.[field]?.label ?? loaded.fields.find((f) => f.key === field)?.label
const tellApart = computed(() => loaded.fields.filter((f) => f.type === 'text' || f.type === 'whole'))
const words = computed<Partial<SetWords>>(() => ({
  label: said(label.value, loaded.label),
  one: said(one.value, loaded.one),
  many: said(many.value, usual.value),
  grain: said(grain.value, loaded.grain),
  name: said(name.value, loaded.name),
  key: key.value || undefined,
  hidden: hidden.value || undefined,
}))
const differs = (property: keyof SetWords) => words.value[property] !== now[property]
function save() {
  saying.mutate(
    { next: withSet(now, words.value), words: `${loaded.label} are described anew.` },
    { onSuccess: () => emit('done') },
  )
}
</script>

<template>
  <form
    class="mt-3 grid grid-cols-3 gap-x-6 gap-y-3 border-l-2 border-mulberry bg-sheet px-4 py-3 max-md:grid-cols-1"
    aria-label="About the record set"
    data-set-form
    @submit.prevent="save"
    @keydown.esc.stop="emit('done')"
  >
    <WordInput
      v-model="label"
      label="As a heading"
      name="set-label"
      :maxlength="80"
      :loaded="loaded.label"
      :by="by('label')"
      :changed="differs('label')"
    />
    <WordInput
      v-model="one"
      label="One of them"
      name="set-one"
      :maxlength="80"
      :loaded="loaded.one"
      :by="by('one')"
      :changed="differs('one')"
    />
    <WordInput
      v-model="many"
      label="Several, in a sentence"
      name="set-many"
      :maxlength="80"
      :placeholder="usual"
      :loaded="loaded.many"
      back=""
      :by="by('many')"
      :changed="differs('many')"
    />
    <WordInput
      v-model="grain"
      class="col-span-full"
      label="What one row is"
      name="set-grain"
      :maxlength="400"
      :loaded="loaded.grain"
      :by="by('grain')"
      :changed="differs('grain')"
    />
    <label
      ><span class="quiet mb-0.5 block">People know one by its</span
      ><select v-model="name" class="field" name="set-name">
        <option v-for="f in loaded.fields.filter((f) => f.type !== 'picture')" :key="f.key" :value="f.key">
          {{ called(f.key) }}
        </option></select
      ><Origin
        :by="by('name')"
        :changed="differs('name')"
        :loaded="called(loaded.name) ?? ''"
        @back="name = loaded.name"
    /></label>
    <label v-if="key || !loaded.fields.some((f) => f.unique)"
      ><span class="quiet mb-0.5 block">No two share a</span
      ><select v-model="key" class="field" name="set-key">
        <option value="">nothing tells them apart</option>
        <option v-for="f in tellApart" :key="f.key" :value="f.key">{{ called(f.key) }}</option></select
      ><Origin :by="by('key')" :changed="differs('key')" loaded="" @back="key = ''"
    /></label>
    <label class="col-span-full flex items-baseline gap-2"
      ><input v-model="hidden" type="checkbox" class="accent-mulberry" name="set-hidden" />not offered where
      record sets are chosen; views of it go on</label
    >
    <SayTrouble :describing="describing" @done="emit('done')" />
    <p class="col-span-full flex items-center gap-4">
      <button class="button button-act" type="submit" data-say :disabled="saying.isPending.value">
        Say it for everybody
      </button>
      <button class="link" type="button" @click="emit('done')">Cancel</button>
    </p>
  </form>
</template>
