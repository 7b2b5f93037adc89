<script setup lang="ts">
import { useEventListener, useTitle } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Document, RecordSet, View } from '../api/client'
import { wordsOf } from '../api/problem'
import FavoriteMenu from './FavoriteMenu.vue'
import SaveDialog from './SaveDialog.vue'
import { useSaving, type Naming } from './useSaving'

/** Which view is open, whether it differs from what was saved, and the acts on it as a whole. */
const props = defineProps<{
  set: RecordSet; saved: View | null; document: Document; base: number; changed: boolean; brief: string; canUndo: boolean; canRedo: boolean
}>()
const emit = defineEmits<{ undo: []; redo: []; saved: [view: View]; removed: []; back: []; keys: [] }>()

const { add, save, remove, favorite } = useSaving()
const naming = ref<'new' | 'edit' | null>(null)
const title = computed(() => props.saved?.name ?? `New view of ${props.set.label.toLowerCase()}`)
const trouble = computed(() => {
  const error = add.error.value ?? save.error.value ?? remove.error.value ?? favorite.error.value
  return error ? wordsOf(error) : ''
})

function begin(what: 'new' | 'edit') {
  add.reset()
  save.reset()
  naming.value = what
}
function write(as: Naming) {
  const done = { onSuccess: (view: View) => { naming.value = null; emit('saved', view) } }
  if (naming.value !== 'new' && props.saved) save.mutate({ ...as, document: props.document, key: props.saved.key, base: props.base }, done)
  else add.mutate({ ...as, document: props.document }, done)
}
function saveNow() {
  if (!props.saved?.editable) return begin('new')
  const { name, description, shared } = props.saved
  write({ name, description, shared })
}
function removeIt() {
  if (props.saved) remove.mutate(props.saved.key, { onSuccess: () => emit('removed') })
}
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 's') return
  event.preventDefault()
  if (!naming.value && (props.changed || !props.saved)) saveNow()
})
useTitle(computed(() => `${title.value} · Gavrik`), { restoreOnUnmount: () => 'Gavrik' })
</script>

<template>
  <div class="mb-1 flex items-center gap-4">
    <h1 class="truncate text-[15px] font-semibold" data-title :title="saved?.description">{{ title }}</h1>
    <span v-if="saved" class="quiet text-xs whitespace-nowrap">{{ saved.shared ? 'for everyone' : 'only me' }} · by {{ saved.editable ? 'you' : saved.owner }} · v{{ saved.version }}</span>
    <span v-if="changed" class="text-xs whitespace-nowrap text-honey" data-changed>{{ saved ? 'changed since saved' : 'not saved' }}
      <button class="underline underline-offset-2" @click="emit('back')">{{ saved ? 'back to saved' : 'start over' }}</button></span>
    <span v-else-if="saved?.since.length" class="truncate text-xs text-honey" data-since :title="saved.since.join('; ')">{{ saved.since[0] }}, after this was saved{{ saved.since.length > 1 ? `; so were ${saved.since.length - 1} more` : '' }}</span>
    <span v-else class="text-xs whitespace-nowrap text-pine" data-changed>{{ saved ? 'as saved' : 'nothing changed yet' }}</span>
    <span v-if="trouble && !naming" class="truncate text-mulberry" role="alert">{{ trouble }}</span>
    <div class="ml-auto flex shrink-0 gap-2">
      <button class="button" :disabled="!canUndo" title="Ctrl Z" @click="emit('undo')">Undo</button>
      <button class="button" :disabled="!canRedo" title="Ctrl Shift Z" @click="emit('redo')">Redo</button>
      <button class="button" aria-label="Keys" title="Keys (?)" @click="emit('keys')">?</button>
      <FavoriteMenu v-if="saved" :view="saved" @set="(everyone, on) => favorite.mutate({ key: saved!.key, everyone, on })" />
      <button v-if="saved?.editable" class="button" @click="begin('edit')">Share …</button>
      <button class="button" @click="begin('new')">Save as …</button>
      <button v-if="saved?.editable" class="button button-act" :disabled="!changed || save.isPending.value" title="Ctrl S" @click="saveNow">Save</button>
      <button v-else-if="!saved" class="button button-act" @click="begin('new')">Save …</button>
    </div>
    <SaveDialog
      v-if="naming" :title="naming === 'new' ? 'Save as a new view' : 'Name and sharing'" :name="naming === 'new' ? (saved ? `${saved.name}, copy` : '') : (saved?.name ?? '')"
      :description="saved?.description ?? ''" :shared="naming === 'edit' && !!saved?.shared" :brief="brief" :busy="add.isPending.value || save.isPending.value" :trouble="trouble" :deletable="naming === 'edit'"
      @save="write" @close="naming = null" @remove="removeIt"
    />
  </div>
</template>
