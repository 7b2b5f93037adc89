<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Field } from '../../api/client'
import { queries } from '../../api/queries'
import { findFields } from '../useFields'

/** Finds a field by typing: label, path, meaning, and what it holds. Enter chooses. */
const props = defineProps<{
  fields: readonly Field[]
  /** The record set, so that values are searched as well. */
  set?: string
  used?: readonly string[]
  hint?: string
  /** Stays open for the next field; Enter in the empty line then is left to the editor around it. */
  stays?: boolean
}>()
const emit = defineEmits<{ choose: [field: Field] }>()
const typed = ref('')
const at = ref(0)
const list = useTemplateRef('list')

const searched = refDebounced(
  computed(() => typed.value.trim()),
  120,
)
const { data: holding } = useQuery(computed(() => queries.holding(props.set ?? '', searched.value)))
interface Hit {
  field: Field
  holds: string
}
/** Fields that are called so come before those that only hold it. */
const found = computed<Hit[]>(() => {
  const held = new Map(
    searched.value === typed.value.trim() ? (holding.value?.fields ?? []).map((h) => [h.path, h]) : [],
  )
  const words = (path: string) => {
    const h = held.get(path)
    return h
      ? `holds ${h.values.join(', ')}${h.found > h.values.length ? ` and ${h.found - h.values.length} more` : ''}`
      : ''
  }
  const called = findFields(props.fields, typed.value)
  const rest = props.fields.filter((f) => held.has(f.path) && !called.includes(f))
  return [...called, ...rest].slice(0, 60).map((field) => ({ field, holds: words(field.path) }))
})
watch(
  () => [typed.value, props.fields],
  () => (at.value = 0),
)

function move(by: number) {
  at.value = Math.max(0, Math.min(found.value.length - 1, at.value + by))
  list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' })
}
function choose(field: Field | undefined) {
  if (!field) return
  emit('choose', field)
  typed.value = ''
}
function enter(event: KeyboardEvent) {
  if (props.stays && !typed.value) return
  event.preventDefault()
  choose(found.value[at.value]?.field)
}
</script>

<template>
  <div>
    <input
      v-model="typed"
      data-first
      class="field"
      type="text"
      role="combobox"
      aria-expanded="true"
      aria-controls="found-fields"
      :aria-activedescendant="found[at] ? `found-${at}` : undefined"
      :placeholder="hint ?? 'Type to find a field'"
      aria-label="Find a field"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.enter="enter"
    />
    <ul
      id="found-fields"
      ref="list"
      class="mt-2 overflow-auto"
      :class="stays && !typed ? 'max-h-36' : 'max-h-72'"
      role="listbox"
      aria-label="Fields"
    >
      <li
        v-for="({ field: f, holds }, i) in found"
        :id="`found-${i}`"
        :key="f.path"
        role="option"
        :aria-selected="i === at"
        class="grid cursor-pointer grid-cols-[1fr_auto] gap-x-4 border-b border-rule px-2 py-1.5"
        :class="i === at && 'bg-mulberry-wash'"
        @mousemove="at = i"
        @click="choose(f)"
      >
        <span class="min-w-0 truncate">
          <b class="font-medium">{{ f.label }}</b>
          <span v-if="f.way.length" class="quiet"> in {{ f.way.join(' › ') }}</span>
        </span>
        <span class="quiet text-right text-xs leading-5"
          >{{ f.kind ? `${f.shared ? 'defined' : 'made here'} · ` : '' }}{{ f.typeName
          }}<template v-if="!f.kind"> · {{ Math.floor(f.filled * 100) }} % filled</template
          ><template v-if="used?.includes(f.path)"> · shown</template></span
        >
        <span v-if="holds" class="col-span-2 truncate text-xs text-mulberry" data-holds>{{ holds }}</span>
        <span v-else class="quiet col-span-2 truncate text-xs">{{
          [f.meaning, f.samples.join(', ')].filter(Boolean).join('  —  ')
        }}</span>
      </li>
    </ul>
    <p v-if="!found.length" class="quiet py-3">
      No field is called that, and none holds it. Try one word, or a value.
    </p>
  </div>
</template>
