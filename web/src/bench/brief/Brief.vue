<script setup lang="ts">
import { computed, onBeforeUpdate, onUpdated, ref, useTemplateRef } from 'vue'
import type { Phrase } from '../../api/client'
import { useKeyHints } from '../../shell/commands'
import { formatCount } from '../../words'
import { useBench } from '../bench'
import type { AddWhat } from '../editing/editing'

/** The view in one sentence; each underlined phrase opens the editor of its step. */
const props = defineProps<{ phrases: readonly Phrase[]; stale: boolean }>()
const { edit, add, reading } = useBench()
const hint = useKeyHints()

/** A phrase that had the focus may be gone after its own step: the keys stay in the sentence. */
const root = useTemplateRef('root')
let held = false
onBeforeUpdate(() => (held = !!root.value?.contains(document.activeElement)))
onUpdated(() => {
  if (held && document.activeElement === document.body)
    root.value?.querySelector<HTMLElement>('[data-add]')?.focus({ preventScroll: true })
})

const tones: Record<Phrase['kind'], string> = {
  plain: '',
  records: 'border-ink',
  filter: 'border-mulberry',
  group: 'border-pine',
  totals: 'border-ink',
  columns: 'border-ink',
  sort: 'border-slate',
  compare: 'border-slate',
  made: 'border-honey',
}
/** Long phrases are said in few words until they are unfolded. */
const textOf = (p: Phrase) => (unfolded.value ? p.text : (p.short ?? p.text))
/** Of a long filter the first conditions are shown; the others stand behind "and 12 more". */
const most = 7
const shownFirst = 5
const unfolded = ref(false)
const shown = computed<{ phrase: Phrase; i: number; more: number }[]>(() => {
  const conditions = props.phrases.flatMap((p, i) => (p.kind === 'filter' ? [i] : []))
  const from = conditions[shownFirst - 1] ?? 0
  const to = conditions.at(-1) ?? 0
  const folded = !unfolded.value && conditions.length > most
  return props.phrases.flatMap((phrase, i) => {
    if (!folded || i <= from || i > to) return [{ phrase, i, more: 0 }]
    return i === to ? [{ phrase, i, more: conditions.length - shownFirst }] : []
  })
})
const adds: readonly AddWhat[] = [
  'filter',
  'group',
  'columns',
  'calculate',
  'bucket',
  'sort',
  'compare',
  'ask',
]
</script>

<template>
  <p
    ref="root"
    class="font-serif text-[19px] leading-8 max-md:text-base max-md:leading-7"
    :aria-busy="stale"
    data-brief
  >
    <template v-for="{ phrase: p, i, more } in shown" :key="`${i} ${p.path}`">
      <span v-if="p.kind === 'plain'">{{ p.text }}</span>
      <template v-else>
        <button
          v-if="more"
          class="inline border-b-2 border-dashed border-mulberry text-left leading-6 font-semibold hover:bg-mulberry-wash"
          title="Show every condition"
          data-unfold
          @click="unfolded = true"
        >
          &nbsp;and {{ more }} more
        </button>
        <button
          v-else-if="p.kind !== 'records'"
          class="inline border-b-2 text-left leading-6 font-semibold hover:bg-mulberry-wash"
          :class="[tones[p.kind], p.ask && 'border-dotted']"
          :title="p.ask ? `Asked: ${p.ask.label}` : p.short ? p.text : undefined"
          :data-phrase="p.path"
          @click="edit(p, $event.currentTarget as HTMLElement)"
        >
          {{ textOf(p) }}
        </button>
        <b v-else class="border-b-2 font-semibold" :class="tones.records">{{ p.text }}</b>
        <span
          v-if="p.count !== undefined"
          class="ml-1 rounded-full bg-mulberry-wash px-1.5 py-0.5 align-[2px] font-sans text-xs text-mulberry"
          :title="
            p.step
              ? `${formatCount(p.count)} left; alone it takes away ${formatCount(p.step.alone)}${p.step.dates ? `; ${p.step.dates}` : ''}${p.step.blanksKept ? `; ${p.step.blanksKept} blanks kept` : ''}`
              : 'records in all'
          "
          >{{ formatCount(p.count) }}</span
        >
      </template>
    </template>
    <button
      v-if="unfolded || phrases.some((p) => p.short)"
      class="quiet ml-2 font-sans text-[13px] underline"
      :aria-expanded="unfolded"
      data-whole
      @click="unfolded = !unfolded"
    >
      {{ unfolded ? 'fold' : 'all of it' }}
    </button>
    <span v-if="!reading" class="ml-3 inline-flex gap-3 font-sans text-[13px]">
      <button
        v-for="what in adds"
        :key="what"
        class="quiet border-b border-dashed border-edge leading-5 hover:text-ink"
        :data-add="what"
        :title="hint(what) ? `Key: ${hint(what)}` : undefined"
        @click="add(what, $event.currentTarget as HTMLElement)"
      >
        {{ what }}
      </button>
    </span>
  </p>
</template>
