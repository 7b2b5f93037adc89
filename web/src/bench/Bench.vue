<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Phrase, RecordSet, View } from '../api/client'
import BenchHead from './BenchHead.vue'
import Brief from './brief/Brief.vue'
import { addCondition, addGroup, moveColumn, newDocument, removeColumn, sameDocument, setColumn, setCondition, sortByColumn, toggleShow, toggleTotal, type Direction } from './document'
import { keepTrail } from '../record/trail'
import { useDrafts } from './drafts'
import Editors from './editors/Editors.vue'
import KeysDialog from './KeysDialog.vue'
import Ledger from './ledger/Ledger.vue'
import Lens from './lens/Lens.vue'
import NothingLeft from './NothingLeft.vue'
import Tally from './Tally.vue'
import { useEditing, type AddWhat } from './useEditing'
import { useFields } from './useFields'
import { useHistory } from './useHistory'
import { useRun, type Opening } from './useRun'

/** The screen where a view is made and read. */
const props = defineProps<{ set: RecordSet; saved: View | null; place: string }>()
const router = useRouter()
const { find, keep: keepDraft, forget } = useDrafts()

const start = computed(() => props.saved?.document ?? newDocument(props.set))
const draft = find(props.place)
const history = useHistory(draft?.document ?? start.value)
const base = ref(draft?.base ?? props.saved?.version ?? 0)
const document_ = history.shown
const changed = computed(() => !sameDocument(history.kept.value, start.value))

// Unsaved work is kept as it is made, so that a crash or a closed tab loses nothing.
watch([history.kept, changed], ([doc, differs]) => {
  if (!differs) return forget(props.place)
  const title = props.saved?.name ?? `New view of ${props.set.label.toLowerCase()}`
  keepDraft({ place: props.place, title, document: doc, base: base.value, at: Date.now() })
})

/** Cells of a crosstab stand for many records, so none has a line. */
const crossed = computed(() => !!document_.value.across?.length)
const levels = computed(() => document_.value.groups?.length ?? 0)
const opening = ref<Opening>({ depth: Math.max(0, levels.value - 1), toggled: [] })
watch(levels, (now, before) => {
  // Groups appear closed down to the innermost, so that the summary is seen first.
  if (now !== before) opening.value = { depth: Math.max(0, now - 1), toggled: [] }
})
const run = useRun(document_, opening)
const { fields, byPath } = useFields(computed(() => props.set.key), computed(() => run.result.value?.made))
const editor = useEditing(history, run, byPath, computed(() => props.set.linkedBy))
const { editing } = editor

const selected = ref(0)
const selectedField = computed(() => byPath.value.get(document_.value.columns[selected.value]?.field ?? ''))
/** The selected column, if its values can be put into bands. */
const bucketable = computed(() => {
  const f = selectedField.value
  return f && f.type !== 'picture' && f.type !== 'yesno' && f.kind !== 'per_total' && f.kind !== 'bucket' ? f : undefined
})
const keysShown = ref(false)
const brief = useTemplateRef('brief')

function toggle(group: string) {
  const { depth, toggled } = opening.value
  opening.value = { depth, toggled: toggled.includes(group) ? toggled.filter((g) => g !== group) : [...toggled, group] }
}
function openRecord(record: string) {
  keepTrail({ set: props.set.key, from: router.currentRoute.value.fullPath, keys: run.recordsRead() })
  void router.push(`/r/${props.set.key}/${encodeURIComponent(record)}`)
}
function showDownTo(depth: number) {
  opening.value = { depth: Math.max(-1, Math.min(levels.value, depth)), toggled: [] }
}

function edit(phrase: Phrase, anchor: HTMLElement) {
  const group = /^(groups|across)\[(\d+)\]/.exec(phrase.path)
  if (phrase.kind === 'filter') editor.openCondition(phrase.path, anchor)
  else if (phrase.kind === 'made') editMade(phrase, anchor)
  else if (group) editor.open({ kind: 'group', way: group[1] as Direction, index: Number(group[2]), anchor })
  else if (phrase.kind === 'sort' || phrase.kind === 'compare') editor.open({ kind: phrase.kind, anchor })
  else editor.open({ kind: 'columns', anchor })
}
function editMade(phrase: Phrase, anchor: HTMLElement) {
  const own = /^(calculated|buckets)\[(\d+)\]/.exec(phrase.path)
  if (own) editor.openMade(own[1] === 'calculated' ? 'calculate' : 'bucket', Number(own[2]), anchor)
  else void router.push({ path: '/definitions', query: { open: phrase.path.replace(/^definitions\./, '') } })
}
function add(what: AddWhat, anchor: HTMLElement) {
  if (what === 'calculate') return editor.openMade(what, null, anchor)
  if (what === 'bucket') return editor.openMade(what, null, anchor, bucketable.value)
  if (what !== 'filter' && what !== 'group') editor.open({ kind: what, anchor })
  else editor.open({ kind: 'find', purpose: what, beside: null, anchor })
}
/** Opens an editor by key, hanging from its word in the brief. */
function addByKey(what: AddWhat) {
  const anchor = brief.value?.querySelector<HTMLElement>(`[data-add=${what}]`)
  if (anchor) add(what, anchor)
}
function filterSelected(anchor?: HTMLElement) {
  const at = anchor ?? brief.value?.querySelector<HTMLElement>('[data-add=filter]')
  if (!at || !selectedField.value) return
  if (editing.value) editor.keep()
  editor.newCondition(selectedField.value, null, at)
}
function filterValue(op: 'one_of' | 'none_of', value: string) {
  if (selectedField.value) history.step(addCondition(history.kept.value, { field: selectedField.value.path, op, values: [value] }).doc)
}
function keepRange(from: string | undefined, below: string | undefined) {
  const field = selectedField.value?.path
  if (!field) return
  let doc = history.kept.value
  if (from) doc = addCondition(doc, { field, op: 'at_least', value: from }).doc
  if (below) doc = addCondition(doc, { field, op: 'under', value: below }).doc
  history.step(doc)
}
function groupSelected() {
  if (selectedField.value && selectedField.value.type !== 'picture') history.step(addGroup(history.kept.value, selectedField.value))
}
function totalSelected(fn?: string) {
  const first = fn ?? selectedField.value?.fns[0]?.fn
  if (first) history.step(toggleTotal(history.kept.value, selected.value, first))
}
function moveSelected(by: number) {
  history.step(moveColumn(history.kept.value, selected.value, selected.value + by))
  selected.value += by
}
function takeOutSelected() {
  history.step(removeColumn(history.kept.value, selected.value))
  selected.value = Math.max(0, selected.value - 1)
}

const keys: Record<string, () => void> = {
  '/': () => addByKey('columns'), c: () => addByKey('columns'), f: () => addByKey('filter'), g: () => addByKey('group'), x: () => addByKey('compare'), '=': () => addByKey('calculate'), b: () => addByKey('bucket'),
  s: () => history.step(sortByColumn(history.kept.value, selected.value)), t: () => totalSelected(),
  '[': () => showDownTo(opening.value.depth - 1), ']': () => showDownTo(opening.value.depth + 1), '?': () => (keysShown.value = true),
}
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, select, [role=dialog], [role=menu]')) return
  if (event.ctrlKey || event.metaKey) {
    if (event.key.toLowerCase() !== 'z') return
    event.preventDefault()
    if (event.shiftKey) history.redo()
    else history.undo()
    return
  }
  const act = keys[event.key]
  if (!act || event.altKey) return
  event.preventDefault()
  act()
})

function onSaved(view: View) {
  forget(props.place)
  base.value = view.version
  if (router.currentRoute.value.path !== `/v/${view.key}`) void router.replace(`/v/${view.key}`)
}
function onRemoved() {
  forget(props.place)
  void router.replace('/')
}
const trouble = computed(() => (run.state.value.kind === 'failed' && !['condition', 'linked', 'calculate', 'bucket'].includes(editing.value?.kind ?? '') ? run.state.value.problem : null))
</script>

<template>
  <main class="flex min-h-0 flex-col">
    <section class="border-b border-rule bg-paper px-5 pt-3 pb-3">
      <BenchHead
        :set="set" :saved="saved" :document="history.kept.value" :base="base" :changed="changed" :brief="run.result.value?.sentence ?? ''"
        :can-undo="history.canUndo.value" :can-redo="history.canRedo.value" @undo="history.undo" @redo="history.redo" @saved="onSaved"
        @removed="onRemoved" @back="history.step(start)" @keys="keysShown = true"
      />
      <div ref="brief"><Brief v-if="run.result.value" :phrases="run.result.value.brief" :stale="run.state.value.kind !== 'ready'" @edit="edit" @add="add" /></div>
    </section>
    <div v-if="trouble" class="border-b border-rule bg-mulberry-wash px-5 py-2" role="alert">
      {{ trouble.message }}
      <ul v-if="trouble.faults.length > 1" class="list-disc pl-5"><li v-for="f in trouble.faults" :key="f.path">{{ f.path }}: {{ f.message }}</li></ul>
      <button v-if="!run.result.value || trouble.status === 0" class="link ml-2" @click="run.again()">Try again</button>
      <button v-if="history.canUndo.value" class="link ml-2" @click="history.undo()">Undo the last step</button>
    </div>
    <div v-if="run.result.value" class="grid min-h-0 flex-1 grid-cols-[1fr_296px]">
      <section class="flex min-h-0 min-w-0 flex-col">
        <nav v-if="levels" class="flex items-center gap-4 border-b border-rule bg-sheet px-5 py-1.5 text-[13px]" aria-label="Show down to">
          <span class="quiet">Show down to</span>
          <button
            v-for="(l, i) in ['Total', ...run.result.value.levels.map((x) => x.label), ...(crossed ? [] : [set.one])]" :key="l"
            class="border-b-2 pb-0.5" :aria-pressed="opening.depth === i - 1" :class="opening.depth === i - 1 ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
            @click="showDownTo(i - 1)"
          >{{ l }}<template v-if="i && i <= levels">&nbsp;<span class="quiet font-normal">{{ run.result.value.levels[i - 1]?.groups.toLocaleString('en') }}</span></template></button>
          <span class="quiet ml-auto"><kbd class="key">[</kbd> <kbd class="key">]</kbd></span>
        </nav>
        <NothingLeft v-if="run.result.value.tally.kept === 0 && run.result.value.tally.all > 0" :phrases="run.result.value.brief" :many="run.result.value.tally.many" @leave-out="history.step(setCondition(history.kept.value, $event, null))" />
        <Ledger
          class="min-h-0 flex-1" :run="run" :result="run.result.value" :document="document_" :selected="selected"
          @open="openRecord" @toggle="toggle" @select="selected = $event" @resize="(column, width) => history.step(setColumn(history.kept.value, column, { width }))" @sort="history.step(sortByColumn(history.kept.value, $event))"
        />
      </section>
      <Lens
        v-if="selectedField" :document="document_" :result="run.result.value" :field="selectedField" :fields="fields" :index="selected" @change="history.step"
        @keep-only="filterSelected" @keep-value="filterValue('one_of', $event)" @leave-out="filterValue('none_of', $event)" @group="groupSelected"
        @sort="history.step(sortByColumn(history.kept.value, selected))" @total="totalSelected" @show="history.step(toggleShow(history.kept.value, selected, $event))" @keep-range="keepRange" @move="moveSelected" @take-out="takeOutSelected"
      />
      <aside v-else class="quiet border-l border-rule bg-paper p-4">Choose a column to look at what it holds.</aside>
    </div>
    <p v-else-if="!trouble" class="quiet flex-1 p-10">Computing …</p>
    <Tally v-if="run.result.value" :result="run.result.value" :running="run.state.value.kind === 'running'" />
    <Editors :editor="editor" :history="history" :run="run" :fields="fields" :by-path="byPath" :standard="set.standard" :records="set.key" :linked-by="set.linkedBy" />
    <KeysDialog v-if="keysShown" @close="keysShown = false" />
  </main>
</template>
