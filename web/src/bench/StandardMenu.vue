<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap, type Document, type RecordSet } from '../api/client'
import { forget, queries } from '../api/queries'
import { wordsOf } from '../api/problem'

/** For administrators: makes what is on the bench the start of all new views of the record set. */
const props = defineProps<{ set: RecordSet; document: Document }>()
const emit = defineEmits<{ say: [text: string] }>()
const client = useQueryClient()
// The bench keeps what it was opened with; what is standard may have changed since.
const catalog = useQuery(queries.catalog())
const now = computed(() => catalog.data.value?.sets.find((s) => s.key === props.set.key) ?? props.set)
async function put(what: { columns?: string[]; view?: Document }, said: string) {
  try {
    await unwrap(
      api.PUT('/api/catalog/{set}/standard', { params: { path: { set: props.set.key } }, body: what }),
    )
    await forget(client, 'catalog')
    emit('say', said)
  } catch (cause) {
    emit('say', wordsOf(cause))
  }
}
const paths = computed(() => {
  const made = new Set(
    [...(props.document.calculated ?? []), ...(props.document.buckets ?? [])].map((m) => m.key),
  )
  return props.document.columns.map((c) => c.field).filter((path) => !made.has(path))
})
const own = computed(() => (now.value.own ? now.value.standard : undefined))
const acts = computed(() => [
  {
    label: 'Its columns',
    run: () =>
      put(
        { columns: paths.value, view: now.value.start },
        `New views of ${props.set.label.toLowerCase()} have these columns.`,
      ),
  },
  {
    label: 'All of it, as the standard view',
    run: () =>
      put(
        { columns: own.value, view: props.document },
        `New views of ${props.set.label.toLowerCase()} start as this one stands now.`,
      ),
  },
  ...(now.value.own || now.value.start
    ? [
        {
          label: 'What the database suggests',
          run: () => put({}, `New views of ${props.set.label.toLowerCase()} start as the database suggests.`),
        },
      ]
    : []),
])
</script>

<template>
  <Menu as="div" class="relative">
    <MenuButton class="button" title="What new views of these records start with" data-standard
      >Standard</MenuButton
    >
    <MenuItems class="absolute right-0 z-40 mt-1 w-72 border border-rule bg-sheet py-1 shadow-lg">
      <p class="quiet px-3 py-1 text-xs">Everybody’s new views of {{ set.label.toLowerCase() }} start with</p>
      <MenuItem v-for="a in acts" :key="a.label" v-slot="{ active }"
        ><button class="w-full px-3 py-2 text-left" :class="active && 'bg-mulberry-wash'" @click="a.run">
          {{ a.label }}
        </button></MenuItem
      >
    </MenuItems>
  </Menu>
</template>
