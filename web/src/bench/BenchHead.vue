<script setup lang="ts">
import { useEventListener, useTitle } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, unwrap, type Document, type RecordSet, type View } from '../api/client'
import { Problem, wordsOf } from '../api/problem'
import ConflictDialog from './ConflictDialog.vue'
import FavoriteMenu from './FavoriteMenu.vue'
import HistoryMenu from './HistoryMenu.vue'
import SaveDialog from './SaveDialog.vue'
import type { History } from './useHistory'
import { useSaving, type Naming } from './useSaving'
import { useMe } from '../session/useMe'
import StandardMenu from './StandardMenu.vue'
import VersionsDialog from './VersionsDialog.vue'

/** Which view is open, whether it differs from what was saved, and the acts on it as a whole. */
const props = defineProps<{
  set: RecordSet
  saved: View | null
  title: string
  history: History
  start: Document
  base: number
  changed: boolean
  /** The newest step is on the server. */
  safe: boolean
  /** Who made what a link led to, if somebody else. */
  by: string
  template: View | null
  brief: string
}>()
const emit = defineEmits<{
  saved: [view: View, document: Document]
  favorite: [view: View]
  removed: []
  theirs: [view: View]
  back: []
  keys: []
  say: [text: string]
}>()
const document_ = computed(() => props.history.kept.value)
/** Version that is saved over; a newer one, once it was looked at. */
const base = ref(props.base)
watch(
  () => props.base,
  (now) => (base.value = now),
)

const { add, save, remove, favorite, handOver } = useSaving()
const { me } = useMe()
const naming = ref<'new' | 'edit' | null>(null)
const trouble = computed(() => {
  const error =
    add.error.value ?? save.error.value ?? remove.error.value ?? favorite.error.value ?? handOver.error.value
  return error ? wordsOf(error) : ''
})

function begin(what: 'new' | 'edit') {
  add.reset()
  save.reset()
  naming.value = what
}
/** A save is under way: another would meet it as if it were somebody else's. */
const writing = computed(() => add.isPending.value || save.isPending.value)
function write(as: Naming) {
  if (writing.value) return
  const document = document_.value
  const done = {
    onSuccess: (view: View) => {
      naming.value = null
      emit('saved', view, document)
    },
  }
  if (naming.value !== 'new' && props.saved)
    save.mutate(
      { ...as, document, key: props.saved.key, base: base.value },
      { ...done, onError: (e) => conflicted(e, as) },
    )
  else add.mutate({ ...as, document }, done)
}
function saveNow() {
  if (writing.value) return
  if (!me.value?.saves)
    return emit('say', 'Readers try views out and keep links to them; to save needs the role of an analyst.')
  if (!props.saved?.editable) return begin('new')
  const { name, description, shares, label, mark, template } = props.saved
  write({ name, description, shares, label, mark, template })
}
/** What was to be saved when somebody else turned out to have saved meanwhile. */
const conflict = ref<Naming | null>(null)
function conflicted(error: unknown, as: Naming) {
  if (!(error instanceof Problem) || error.status !== 409) return
  naming.value = null
  save.reset()
  conflict.value = as
}
/** Writes over a version that was looked at; it stays among the versions. */
function writeOver(theirs: View) {
  const as = conflict.value
  conflict.value = null
  if (!as) return
  base.value = theirs.version
  write(as)
}
function takeTheirs(theirs: View) {
  conflict.value = null
  emit('theirs', theirs)
}
function saveApart() {
  conflict.value = null
  begin('new')
}
const versions = ref(false)
function hand(to: number) {
  if (!props.saved) return
  handOver.mutate(
    { key: props.saved.key, to },
    {
      onSuccess: (view) => {
        naming.value = null
        if (view) emit('favorite', view)
        else emit('removed')
        emit('say', 'It is handed over.')
      },
    },
  )
}
function removeIt() {
  if (props.saved) remove.mutate(props.saved.key, { onSuccess: () => emit('removed') })
}
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 's') return
  event.preventDefault()
  if (!naming.value && (props.changed || !props.saved)) saveNow()
})
/** What differs from what was saved, asked for when it is looked at. */
const differs = ref<string[]>([])
const differing = ref(false)
async function tellChanges() {
  differing.value = !differing.value
  if (!differing.value) return
  const got = await unwrap(
    api.POST('/api/changes', { body: { from: props.start, to: document_.value } }),
  ).catch(() => null)
  differs.value = got?.changes ?? []
}
watch(document_, () => (differing.value = false))

async function copyLink() {
  const at = new URLSearchParams(location.search).get('at')
  // The state may still be on its way to the server; it is kept for 90 days in any case.
  if (at)
    await unwrap(api.PUT('/api/states/{key}/lasting', { params: { path: { key: at } } })).catch(
      () => undefined,
    )
  try {
    await navigator.clipboard.writeText(location.href)
    emit('say', 'The link leads to the view as it stands now.')
  } catch {
    emit('say', `The browser did not allow copying. The link is in the address line: ${location.href}`)
  }
}
useTitle(
  computed(() => `${props.title} · Gavrik`),
  { restoreOnUnmount: () => 'Gavrik' },
)
</script>

<template>
  <div class="mb-1 flex items-center gap-4">
    <h1 class="truncate text-[15px] font-semibold" data-title :title="saved?.description">{{ title }}</h1>
    <span v-if="saved" class="quiet text-xs whitespace-nowrap"
      ><span
        class="inline-block max-w-48 truncate align-bottom"
        :title="`Who sees it: ${saved.audience}`"
        data-audience
        >{{ saved.audience }}</span
      >
      · by {{ saved.owned ? 'you' : saved.owner }} ·
      <button
        class="underline decoration-dotted underline-offset-2"
        title="Every version, and what each changed"
        data-open-versions
        @click="versions = true"
      >
        v{{ saved.version }}
      </button></span
    >
    <span v-if="changed" class="relative text-xs whitespace-nowrap text-honey"
      ><button
        class="underline decoration-dotted underline-offset-2"
        :aria-expanded="differing"
        :title="
          safe ? 'Kept on the server; see what changed' : 'Kept in this browser until the server answers'
        "
        data-changed
        @click="tellChanges"
      >
        {{ saved ? 'changed since saved' : 'not saved' }}
      </button>
      <button class="ml-2 underline underline-offset-2" @click="emit('back')">
        {{ saved ? 'back to saved' : 'start over' }}
      </button>
      <span
        v-if="differing"
        class="absolute top-6 left-0 z-40 block w-80 border border-rule bg-sheet p-3 whitespace-normal text-ink shadow-lg"
        role="status"
        data-differs
      >
        <span v-for="d in differs" :key="d" class="block border-b border-rule py-1 last:border-0">{{
          d
        }}</span></span
      ></span
    >
    <span
      v-else-if="saved?.since.length"
      class="truncate text-xs text-honey"
      data-since
      :title="saved.since.join('; ')"
      >{{ saved.since[0] }}, after this was saved{{
        saved.since.length > 1 ? `; so were ${saved.since.length - 1} more` : ''
      }}</span
    >
    <span v-else class="text-xs whitespace-nowrap text-pine" data-changed>{{
      saved ? 'as saved' : 'nothing changed yet'
    }}</span>
    <slot />
    <span v-if="template" class="quiet truncate text-xs" data-from
      >from the template “{{ template.name }}”</span
    >
    <span v-if="by" class="quiet truncate text-xs">from a link by {{ by }}</span>
    <span v-if="trouble && !naming" class="truncate text-mulberry" role="alert">{{ trouble }}</span>
    <div class="ml-auto flex shrink-0 gap-2">
      <button class="button" :disabled="!history.canUndo.value" title="Ctrl Z" @click="history.undo">
        Undo
      </button>
      <button class="button" :disabled="!history.canRedo.value" title="Ctrl Shift Z" @click="history.redo">
        Redo
      </button>
      <HistoryMenu :history="history" />
      <button class="button" title="Copy a link to the view as it stands" data-copy-link @click="copyLink">
        Link
      </button>
      <button class="button" aria-label="Keys" title="Keys (?)" @click="emit('keys')">?</button>
      <FavoriteMenu
        v-if="saved"
        :view="saved"
        @set="(f) => favorite.mutate({ key: saved!.key, ...f }, { onSuccess: (v) => emit('favorite', v) })"
      />
      <button v-if="saved?.editable" class="button" @click="begin('edit')">
        {{ saved.owned ? 'Share …' : 'Name …' }}
      </button>
      <StandardMenu
        v-if="me?.administrator"
        :set="set"
        :document="document_"
        @say="(text) => emit('say', text)"
      />
      <button v-if="me?.saves" class="button" @click="begin('new')">Save as …</button>
      <button
        v-if="saved?.editable"
        class="button button-act"
        :disabled="!changed || writing"
        title="Ctrl S"
        @click="saveNow"
      >
        Save
      </button>
      <button v-else-if="!saved && me?.saves" class="button button-act" @click="begin('new')">Save …</button>
    </div>
    <SaveDialog
      v-if="naming"
      :title="naming === 'new' ? 'Save as a new view' : 'Name, label and sharing'"
      :name="naming === 'new' ? (saved ? `${saved.name}, copy` : '') : (saved?.name ?? '')"
      :description="saved?.description ?? ''"
      :shares="naming === 'edit' ? (saved?.shares ?? []) : []"
      :owned="naming === 'new' || !!saved?.owned"
      :label="naming === 'edit' ? (saved?.label ?? '') : ''"
      :mark="naming === 'edit' ? (saved?.mark ?? '') : ''"
      :template="naming === 'edit' && !!saved?.template"
      :brief="brief"
      :busy="writing"
      :trouble="trouble"
      :deletable="naming === 'edit' && !!saved?.owned"
      @save="write"
      @close="naming = null"
      @remove="removeIt"
      @hand-over="hand"
    />
    <VersionsDialog
      v-if="versions && saved"
      :view="saved"
      @close="versions = false"
      @show="
        (doc, v) => {
          versions = false
          history.step(doc)
          emit('say', `Version ${v} is on the bench. Save it to bring it back.`)
        }
      "
    />
    <ConflictDialog
      v-if="conflict && saved"
      :view="saved"
      :base="base"
      :mine="document_"
      @over="writeOver"
      @theirs="takeTheirs"
      @apart="saveApart"
      @close="conflict = null"
    />
  </div>
</template>
