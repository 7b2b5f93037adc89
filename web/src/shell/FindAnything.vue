<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { offeredSets, queries } from '../api/queries'
import { openingOf } from '../library/marks'
import { useMe } from '../session/useMe'
import { commands, useKeyHints } from './commands'
import DialogFrame from './DialogFrame.vue'
import { nearest } from './nearest'
import { placesOf } from './places'
import { thingsHere, type Thing } from './things'
import { useCombobox } from './useCombobox'

/** Finds any view, record set, definition or place by name and, where there are some, any field or command. */
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const { me } = useMe()
const hint = useKeyHints()
const typed = ref('')
const views = useQuery(queries.views())
const catalog = useQuery(queries.catalog())
const definitions = useQuery(queries.definitions())
const to = (address: string) => () => void router.push(address)

const things = computed<Thing[]>(() => [
  ...commands.value.map((c) => ({
    kind: 'command',
    name: c.title,
    about: hint.value(c.id) && `key ${hint.value(c.id)}`,
    choose: () => c.run?.(),
  })),
  ...(views.data.value?.views ?? []).map((v) => ({
    kind: v.kind,
    name: v.name,
    about: v.about || v.brief,
    by: { path: v.records, values: v.fields },
    choose: to(openingOf(v)),
  })),
  ...offeredSets(catalog.data.value?.sets).flatMap((s) => [
    { kind: 'new view', name: s.label, about: s.grain, choose: to(`/new/${s.key}`) },
    { kind: 'records', name: s.label, about: 'Fields and links', choose: to(`/records?set=${s.key}`) },
  ]),
  {
    kind: 'new board',
    name: 'New board',
    about: 'Parts of several views on one sheet',
    choose: to('/b/new'),
  },
  { kind: 'place', name: 'How records link', about: 'A map', choose: to('/records?map') },
  ...(definitions.data.value?.definitions ?? []).map((d) => ({
    kind: 'definition',
    name: d.calculated?.label ?? d.bucket?.label ?? d.key,
    about: d.words,
    by: { path: d.records },
    choose: to(`/definitions?open=${d.records}.${d.key}`),
  })),
  ...thingsHere.value,
  ...(me.value
    ? [...placesOf(me.value), ...(me.value.saves ? [{ to: '/bring-in', label: 'Bring in a file' }] : [])]
    : []
  ).map((p) => ({
    kind: 'place',
    name: p.label,
    about: '',
    choose: to(p.to),
  })),
])
const found = computed(() =>
  nearest(typed.value, things.value, (t) => ({
    name: t.name,
    kind: t.kind,
    meaning: t.about,
    ...t.by,
  })).slice(0, 50),
)
const { at, input, list, option, onKeydown } = useCombobox(found, choose)
function choose(thing: Thing) {
  emit('close')
  // A moment later: the focus goes back to the screen first, where a command may take it.
  setTimeout(thing.choose, 50)
}
</script>

<template>
  <DialogFrame title="Find anything" :width="600" untitled acts class="!p-4" @close="emit('close')">
    <input
      v-model="typed"
      class="field"
      v-bind="input()"
      aria-label="Find anything"
      :placeholder="
        thingsHere.length
          ? 'Type the name of a view, a field to add, a command …'
          : 'Type the name of a view, a record set or a definition'
      "
      data-find-anything
      @keydown="onKeydown"
    />
    <ul v-bind="list" class="mt-2 max-h-96 overflow-auto" aria-label="Found">
      <li
        v-for="(t, i) in found"
        :key="`${t.kind} ${t.name} ${t.about}`"
        v-bind="option(i)"
        class="flex cursor-pointer items-baseline gap-3 border-b border-rule px-2 py-1.5"
        :class="i === at && 'bg-mulberry-wash'"
      >
        <b class="max-w-[60%] shrink-0 truncate font-medium">{{ t.name }}</b><span
          class="quiet min-w-0 flex-1 truncate text-xs"
          >{{ t.about }}</span
        ><span class="quiet shrink-0 text-xs">{{ t.kind }}</span>
      </li>
    </ul>
    <p v-if="!found.length" class="quiet py-3">Nothing is called that.</p>
  </DialogFrame>
</template>
