<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import {} from '../api/client'
import { queries } from '../api/queries'
import { bench } from '../bench/atBench'
import { openingOf } from '../library/marks'
import { useMe } from '../session/useMe'
import { searchWords } from '../words'

/** Finds any view, record set, definition or place by name and, at the bench, any field or command; opens by Ctrl K. */
const router = useRouter()
const { me } = useMe()
const open = ref(false)
const typed = ref('')
const at = ref(0)
const list = useTemplateRef('list')
const views = useQuery({ ...queries.views(), enabled: open })
const catalog = useQuery({ ...queries.catalog(), enabled: open })
const definitions = useQuery({ ...queries.definitions(), enabled: open })

interface Thing {
  kind: string
  name: string
  about: string
  to: string
  run?: () => void
}
const things = computed<Thing[]>(() => [
  ...(bench.value?.commands.value ?? []).map((c) => ({
    kind: 'command',
    name: c.name,
    about: c.key && `key ${c.key}`,
    to: '',
    run: c.run,
  })),
  ...(views.data.value?.views ?? []).map((v) => ({
    kind: 'view',
    name: v.name,
    about: v.about || v.brief,
    to: openingOf(v),
  })),
  ...(catalog.data.value?.sets ?? []).map((s) => ({
    kind: 'new view',
    name: s.label,
    about: s.grain,
    to: `/new/${s.key}`,
  })),
  ...(definitions.data.value?.definitions ?? []).map((d) => ({
    kind: 'definition',
    name: d.calculated?.label ?? d.bucket?.label ?? d.key,
    about: d.words,
    to: `/definitions?open=${d.records}.${d.key}`,
  })),
  ...(bench.value?.fields.value ?? []).map((f) => ({
    kind: 'field',
    name: f.label,
    about: [f.way.length ? `in ${f.way.join(' › ')}` : '', f.meaning].filter(Boolean).join(' — '),
    to: f.path,
    run: () => bench.value?.addColumn(f.path),
  })),
  ...[
    ['Desk', '/'],
    ['Views', '/views'],
    ['Records', '/records'],
    ['Definitions', '/definitions'],
    ...(me.value?.administrator ? [['People', '/people']] : []),
  ].map(([name, to]) => ({ kind: 'place', name: name!, about: '', to: to! })),
])
/** Names that begin with what was typed come first, then names that hold it, then all others that mention it. */
const found = computed(() => {
  const words = searchWords(typed.value)
  const rank = (t: Thing) => {
    const name = t.name.toLowerCase()
    if (words.every((w) => name.startsWith(w) || name.includes(` ${w}`))) return 0
    if (words.every((w) => name.includes(w))) return 1
    return words.every((w) => `${name} ${t.about} ${t.kind}`.toLowerCase().includes(w)) ? 2 : 3
  }
  return things.value
    .map((t) => ({ t, rank: rank(t) }))
    .filter((x) => x.rank < 3)
    .sort((a, b) => a.rank - b.rank)
    .map((x) => x.t)
    .slice(0, 50)
})
watch(found, () => (at.value = 0))
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'k') return
  event.preventDefault()
  typed.value = ''
  open.value = true
})
function move(by: number) {
  at.value = Math.max(0, Math.min(found.value.length - 1, at.value + by))
  list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' })
}
function go(thing: Thing | undefined) {
  if (!thing) return
  open.value = false
  // A moment later: the focus goes back to the screen first, where a command may take it.
  if (thing.run) setTimeout(thing.run, 50)
  else void router.push(thing.to)
}
</script>

<template>
  <Dialog :open="open" class="relative z-50" @close="open = false">
    <div class="fixed inset-0 bg-veil" aria-hidden="true"></div>
    <div class="fixed inset-0 flex items-start justify-center pt-24">
      <DialogPanel class="w-[600px] border border-t-3 border-rule border-t-ink bg-sheet p-4 shadow-xl">
        <DialogTitle class="sr-only">Find anything</DialogTitle>
        <input
          v-model="typed"
          class="field"
          type="text"
          role="combobox"
          aria-expanded="true"
          aria-controls="found-things"
          aria-label="Find anything"
          :placeholder="
            bench
              ? 'Type the name of a view, a field to add, a command …'
              : 'Type the name of a view, a record set or a definition'
          "
          :aria-activedescendant="found[at] ? `thing-${at}` : undefined"
          data-find-anything
          @keydown.down.prevent="move(1)"
          @keydown.up.prevent="move(-1)"
          @keydown.enter.prevent="go(found[at])"
        />
        <ul
          id="found-things"
          ref="list"
          class="mt-2 max-h-96 overflow-auto"
          role="listbox"
          aria-label="Found"
        >
          <li
            v-for="(t, i) in found"
            :id="`thing-${i}`"
            :key="`${t.kind} ${t.to} ${t.name}`"
            role="option"
            :aria-selected="i === at"
            class="flex cursor-pointer items-baseline gap-3 border-b border-rule px-2 py-1.5"
            :class="i === at && 'bg-mulberry-wash'"
            @mousemove="at = i"
            @click="go(t)"
          >
            <b class="shrink-0 font-medium">{{ t.name }}</b><span
              class="quiet min-w-0 flex-1 truncate text-xs"
              >{{ t.about }}</span
            ><span class="quiet shrink-0 text-xs">{{ t.kind }}</span>
          </li>
        </ul>
        <p v-if="!found.length" class="quiet py-3">Nothing is called that.</p>
      </DialogPanel>
    </div>
  </Dialog>
</template>
