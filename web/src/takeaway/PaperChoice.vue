<script setup lang="ts">
import type { Schemas } from '../api/client'
import DepthSelect from './DepthSelect.vue'

/** How a view goes on paper: kept with the view, apart from all that changes its numbers. */
type Paper = Schemas['Paper']
type Part = NonNullable<Paper['leave']>[number]
const paper = defineModel<Paper>({ required: true })
const depth = defineModel<number | undefined>('depth', { required: true })
defineProps<{ levels: readonly string[]; records: boolean }>()
const emit = defineEmits<{ usual: [] }>()

const sizes = ['A4', 'A3', 'Letter', 'Legal'] as const
const parts: { part: Part; name: string }[] = [
  { part: 'letterhead', name: 'letterhead' },
  { part: 'title', name: 'title' },
  { part: 'brief', name: 'what the view says' },
  { part: 'conditions', name: 'conditions, beside answers' },
  { part: 'answers', name: 'answers' },
  { part: 'moment', name: 'moment of the records' },
  { part: 'made', name: 'time of printing' },
  { part: 'author', name: 'who printed it' },
  { part: 'pages', name: 'page of pages' },
  { part: 'count', name: 'number of records' },
]
function set(change: Partial<Paper>) {
  paper.value = { ...paper.value, ...change }
}
function leave(part: Part, on: boolean) {
  const left = (paper.value.leave ?? []).filter((p) => p !== part)
  set({ leave: on ? left : [...left, part] })
}
const lines = (text: string) => {
  const all = text.split('\n').slice(0, 10)
  set({ lines: all.some(Boolean) ? all : undefined })
}
const text = (event: Event) => (event.target as HTMLInputElement).value
const number = (event: Event) => Number(text(event)) || undefined
</script>

<template>
  <div class="grid grid-cols-2 gap-x-3 gap-y-2">
    <label
      ><span class="mb-1 block font-medium">Paper</span
      ><select
        class="field py-1"
        data-size
        :value="paper.size ?? 'A4'"
        @change="set({ size: text($event) as Paper['size'] })"
      >
        <option v-for="s in sizes" :key="s">{{ s }}</option>
      </select></label
    >
    <label
      ><span class="mb-1 block font-medium">Turned</span
      ><select
        class="field py-1"
        data-turned
        :value="paper.sideways ? 'sideways' : 'upright'"
        @change="set({ sideways: text($event) === 'sideways' || undefined })"
      >
        <option>upright</option>
        <option>sideways</option>
      </select></label
    >
    <label
      ><span class="mb-1 block font-medium">Type, points</span
      ><input
        class="field py-1"
        type="number"
        min="6"
        max="14"
        placeholder="9"
        :value="paper.type"
        @change="set({ type: number($event) })"
    /></label>
    <label
      ><span class="mb-1 block font-medium">Margins, mm</span
      ><input
        class="field py-1"
        type="number"
        min="5"
        max="50"
        placeholder="15"
        :value="paper.margin"
        @change="set({ margin: number($event) })"
    /></label>
    <label v-if="levels.length"
      ><span class="mb-1 block font-medium">Down to</span
      ><DepthSelect v-model="depth" :levels="levels" :records="records"
    /></label>
    <label v-if="levels.length"
      ><span class="mb-1 block font-medium">New page for each</span
      ><select class="field py-1" :value="paper.break ?? 0" @change="set({ break: number($event) })">
        <option :value="0">none</option>
        <option v-for="(name, i) in levels" :key="i" :value="i + 1">{{ name.toLowerCase() }}</option>
      </select></label
    >
  </div>
  <fieldset>
    <legend class="mb-1 font-medium">Columns that do not fit</legend>
    <label class="flex items-baseline gap-1.5"
      ><input
        type="radio"
        name="over"
        class="accent-mulberry"
        :checked="!paper.over"
        @change="set({ over: undefined })"
      />shrink the type until they do</label
    >
    <label class="flex items-baseline gap-1.5"
      ><input
        type="radio"
        name="over"
        class="accent-mulberry"
        data-over
        :checked="paper.over"
        @change="set({ over: true })"
      />go over the edge, onto pages beside</label
    >
  </fieldset>
  <details>
    <summary class="cursor-pointer font-medium">Heading and footing</summary>
    <label class="mt-2 block"
      ><span class="sr-only">Title</span
      ><input
        class="field py-1"
        maxlength="200"
        placeholder="Title: the view’s name"
        data-paper-title
        :value="paper.title"
        @change="set({ title: text($event) || undefined })"
    /></label>
    <label class="mt-1 block"
      ><span class="sr-only">Subtitle</span
      ><input
        class="field py-1"
        maxlength="300"
        placeholder="Subtitle"
        :value="paper.subtitle"
        @change="set({ subtitle: text($event) || undefined })"
    /></label>
    <label class="mt-1 mb-2 block"
      ><span class="sr-only">Lines of your own</span
      ><textarea
        class="field py-1"
        rows="2"
        placeholder="Lines of your own"
        :value="paper.lines?.join('\n')"
        @change="lines(text($event))"
      ></textarea>
    </label>
    <label v-for="p in parts" :key="p.part" class="flex items-baseline gap-1.5"
      ><input
        type="checkbox"
        class="accent-mulberry"
        :data-part="p.part"
        :checked="!paper.leave?.includes(p.part)"
        @change="leave(p.part, ($event.target as HTMLInputElement).checked)"
      />{{ p.name }}</label
    >
  </details>
  <p>
    <button type="button" class="link text-xs" data-usual @click="emit('usual')">
      begin others like this
    </button>
  </p>
</template>
