<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onScopeDispose, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Document, Phrase, Trouble, View } from '../api/client'
import { keepTrail } from '../record/trail'
import BenchHead from './BenchHead.vue'
import Brief from './brief/Brief.vue'
import BrokenBrief from './brief/BrokenBrief.vue'
import ChartPane from './chart/ChartPane.vue'
import {
  addCondition,
  addGroup,
  newDocument,
  sameDocument,
  setColumn,
  setCondition,
  type Axis,
} from './document'
import Editors from './editors/Editors.vue'
import KeysDialog from './KeysDialog.vue'
import Ledger from './ledger/Ledger.vue'
import Lens from './lens/Lens.vue'
import LevelStrip from './LevelStrip.vue'
import NothingLeft from './NothingLeft.vue'
import Tally from './Tally.vue'
import TicksBar from './TicksBar.vue'
import PrintSheet from './print/PrintSheet.vue'
import { bench } from './atBench'
import QuestionStrip from './ask/QuestionStrip.vue'
import { useAnswers } from './ask/useAnswers'
import { useSelectionActions } from './useSelectionActions'
import { useEditing, type AddWhat } from './useEditing'
import { useFields } from './useFields'
import { useHistory } from './useHistory'
import type { ViewSource } from './useViewSource'
import { useRun, type Opening } from './useRun'
import { useDraftSync } from './unsaved/useDraftSync'
import EarlierWork from './unsaved/EarlierWork.vue'

/** The screen where a view is made and read. */
const props = defineProps<{ opened: ViewSource }>()
const router = useRouter()
const { set } = props.opened
const saved = ref<View | null>(props.opened.saved)
const place = ref(router.currentRoute.value.path)
/** Unsaved work of another time, until it is gone on with or dropped. */
const earlier = ref(props.opened.earlier)

const start = computed(() => saved.value?.document ?? props.opened.template?.document ?? newDocument(set))
const title = computed(() => saved.value?.name ?? `New view of ${set.label.toLowerCase()}`)
const history = useHistory(props.opened.start)
const document_ = history.shown
const changed = computed(() => !sameDocument(history.kept.value, start.value))
const drafts = useDraftSync(history, props.opened, place, title, changed)

/** Cells of a crosstab stand for many records, so none has a line. */
const crossed = computed(() => !!document_.value.across?.length)
const levels = computed(() => document_.value.groups?.length ?? 0)
const opening = ref<Opening>({ depth: Math.max(0, levels.value - 1), toggled: [] })
watch(levels, (now, before) => {
  // Groups appear closed down to the innermost, so that the summary is seen first.
  if (now !== before) opening.value = { depth: Math.max(0, now - 1), toggled: [] }
})
const asking = useAnswers(document_, place)
const { live } = asking
const waits = computed(() => asking.waiting.value.length > 0)
const run = useRun(live, opening, waits)
const { fields, byPath } = useFields(
  ref(set.key),
  computed(() => run.result.value?.made),
)
const editor = useEditing(history, run, byPath, ref(set.linkedBy))
const { editing } = editor
const actions = useSelectionActions(history, set, byPath)
watch(document_, () => (actions.selection.value = null))

/** The selected column, if its values can be put into bands. */
const bucketable = computed(() => {
  const f = actions.field.value
  return f && f.type !== 'picture' && f.type !== 'yesno' && f.kind !== 'per_total' && f.kind !== 'bucket'
    ? f
    : undefined
})
const keysShown = ref(false)
const brief = useTemplateRef('brief')
/** Something that was done, told for a moment at the foot. */
const said = ref('')
let hush: ReturnType<typeof setTimeout> | undefined
function say(text: string) {
  clearTimeout(hush)
  said.value = text
  hush = setTimeout(() => (said.value = ''), 6_000)
}
onScopeDispose(() => clearTimeout(hush))

/** The sheet for paper is there while one prints only. */
const printing = ref(false)
useEventListener(window, 'beforeprint', () => (printing.value = true))
useEventListener(window, 'afterprint', () => (printing.value = false))

function toggle(group: string) {
  const { depth, toggled } = opening.value
  opening.value = {
    depth,
    toggled: toggled.includes(group) ? toggled.filter((g) => g !== group) : [...toggled, group],
  }
}
function openRecord(record: string) {
  keepTrail({
    set: set.key,
    from: router.currentRoute.value.fullPath,
    document: live.value,
    depth: opening.value.depth,
    toggled: [...opening.value.toggled],
    row: run.rowOf(record),
  })
  void router.push(`/r/${set.key}/${encodeURIComponent(record)}`)
}
function showDownTo(depth: number) {
  opening.value = { depth: Math.max(-1, Math.min(levels.value, depth)), toggled: [] }
}

function edit(phrase: Phrase, anchor: HTMLElement) {
  const group = /^(groups|across)\[(\d+)\]/.exec(phrase.path)
  if (phrase.kind === 'filter') void editor.openCondition(phrase.path, anchor, unanswer(phrase))
  else if (phrase.kind === 'made') editDerived(phrase, anchor)
  else if (group) void editor.open({ kind: 'group', axis: group[1] as Axis, index: Number(group[2]), anchor })
  else if (phrase.kind === 'sort' || phrase.kind === 'compare')
    void editor.open({ kind: phrase.kind, anchor })
  else void editor.open({ kind: 'columns', anchor })
}
/**
 * What is edited of a question is what it proposes, so that is what is shown. Returns how its answer is
 * brought back.
 */
function unanswer(phrase: Phrase): (() => void) | undefined {
  const name = phrase.ask?.name
  const given = name === undefined ? undefined : asking.answers.value[name]
  if (name === undefined || given === undefined) return undefined
  asking.forget(name)
  return () => asking.answer(name, given)
}
function editDerived(phrase: Phrase, anchor: HTMLElement) {
  const own = /^(calculated|buckets)\[(\d+)\]/.exec(phrase.path)
  if (own) void editor.openDerived(own[1] === 'calculated' ? 'calculate' : 'bucket', Number(own[2]), anchor)
  else void router.push({ path: '/definitions', query: { open: phrase.path.replace(/^definitions\./, '') } })
}
function add(what: AddWhat, anchor: HTMLElement) {
  if (what === 'calculate') return void editor.openDerived(what, null, anchor)
  if (what === 'bucket') return void editor.openDerived(what, null, anchor, bucketable.value)
  if (what !== 'filter' && what !== 'group' && what !== 'ask') void editor.open({ kind: what, anchor })
  else void editor.open({ kind: 'find', purpose: what, beside: null, anchor })
}
/** Opens an editor by key, hanging from its word in the brief. */
function addByKey(what: AddWhat) {
  const anchor = brief.value?.querySelector<HTMLElement>(`[data-add=${what}]`)
  if (anchor) add(what, anchor)
}
function filterSelected(anchor: HTMLElement) {
  if (!actions.field.value) return
  void editor.openNew(actions.field.value, anchor)
}
/** Goes where a problem of the tally leads. */
function follow(t: Trouble) {
  const anchor = brief.value?.querySelector<HTMLElement>(
    `[data-phrase="${t.phrase}"], [data-unfold], [data-add=filter]`,
  )
  const field = t.group ? byPath.value.get(t.group) : undefined
  if (t.condition) history.step(addCondition(history.kept.value, t.condition).doc)
  else if (t.phrase && anchor) void editor.openCondition(t.phrase, anchor)
  else if (field) history.step(addGroup(history.kept.value, field))
}
/** Looks at what a mark of the chart stands for. */
function lookAtMark(group: string, column: number, text: string) {
  const line = run.rowsRead().find((l) => l.group === group)
  const cells =
    line?.cells ??
    Object.assign(
      Array<string>(run.result.value?.columns.length ?? 0).fill(''),
      column >= 0 ? { [column]: text } : {},
    )
  actions.selection.value = { line: line ?? { level: 1, group, label: '', cells }, head: column }
}

const keys: Record<string, () => void> = {
  '/': () => addByKey('columns'),
  c: () => addByKey('columns'),
  f: () => addByKey('filter'),
  g: () => addByKey('group'),
  x: () => addByKey('compare'),
  '=': () => addByKey('calculate'),
  b: () => addByKey('bucket'),
  a: () => addByKey('ask'),
  s: () => actions.sortBy(),
  t: () => actions.total(),
  h: actions.toggleChart,
  '[': () => showDownTo(opening.value.depth - 1),
  ']': () => showDownTo(opening.value.depth + 1),
  '?': () => (keysShown.value = true),
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
// What can be found by Ctrl K while this bench is open.
bench.value = {
  fields,
  addColumn: (path) =>
    history.step({ ...history.kept.value, columns: [...history.kept.value.columns, { field: path }] }),
  commands: computed(() => [
    { name: 'Filter', key: 'f', run: keys.f! },
    { name: 'Group', key: 'g', run: keys.g! },
    { name: 'Columns', key: 'c', run: keys.c! },
    { name: 'Calculate a field', key: '=', run: keys['=']! },
    { name: 'Put values into buckets', key: 'b', run: keys.b! },
    { name: 'Sort by the selected column', key: 's', run: keys.s! },
    { name: 'Total the selected column', key: 't', run: keys.t! },
    { name: 'Ask the reader', key: 'a', run: keys.a! },
    { name: 'Compare with another period', key: 'x', run: keys.x! },
    { name: document_.value.chart ? 'Take the chart away' : 'Chart', key: 'h', run: keys.h! },
    { name: 'Open a level more', key: ']', run: keys[']']! },
    { name: 'Close a level', key: '[', run: keys['[']! },
    { name: 'Undo', key: 'Ctrl Z', run: history.undo },
    { name: 'Redo', key: 'Ctrl Shift Z', run: history.redo },
    {
      name: 'Clear all filters',
      key: '',
      run: () => history.step({ ...history.kept.value, filter: undefined }),
    },
    {
      name: 'Back to standard columns',
      key: '',
      run: () => history.step({ ...history.kept.value, columns: set.standard.map((field) => ({ field })) }),
    },
    { name: 'Print', key: 'Ctrl P', run: () => window.print() },
    { name: 'Keys', key: '?', run: keys['?']! },
  ]),
}
onScopeDispose(() => (bench.value = null))

function onSaved(view: View, document: Document) {
  saved.value = view
  place.value = `/v/${view.key}`
  drafts.saved(document, view.version, place.value)
}
/** Goes on from what somebody else saved meanwhile; one's own is a step back. */
function onTheirs(view: View) {
  saved.value = view
  drafts.base.value = view.version
  history.step(view.document)
}
async function onRemoved() {
  await drafts.drop()
  void router.replace('/')
}
const trouble = computed(() =>
  run.state.value.kind === 'failed' &&
  !['condition', 'linked', 'within', 'calculate', 'bucket'].includes(editing.value?.kind ?? '')
    ? run.state.value.problem
    : null,
)
const charted = computed(() =>
  document_.value.chart && run.result.value?.chart ? run.result.value.chart : null,
)
</script>

<template>
  <main class="flex min-h-0 flex-col">
    <section class="border-b border-rule bg-paper px-5 pt-3 pb-3">
      <BenchHead
        :set="set"
        :saved="saved"
        :title="title"
        :history="history"
        :start="start"
        :base="drafts.base.value"
        :changed="changed"
        :safe="drafts.safe.value"
        :by="opened.by"
        :template="opened.template"
        :brief="run.result.value?.sentence ?? ''"
        @saved="onSaved"
        @theirs="onTheirs"
        @removed="onRemoved"
        @back="history.step(start)"
        @keys="keysShown = true"
        @say="say"
        @favorite="saved = $event"
      >
        <EarlierWork v-if="earlier" :earlier="earlier" @gone="earlier = null" />
      </BenchHead>
      <div ref="brief">
        <Brief
          v-if="run.result.value"
          :phrases="run.result.value.brief"
          :stale="run.state.value.kind !== 'ready'"
          @edit="edit"
          @add="add"
        />
        <BrokenBrief
          v-else-if="trouble?.faults.length"
          :label="set.label"
          :document="document_"
          :fields="byPath"
          :problem="trouble"
          @mend="history.step"
        />
      </div>
    </section>
    <div v-if="trouble" class="border-b border-rule bg-mulberry-wash px-5 py-2" role="alert">
      <ul v-if="trouble.faults.length > 1" class="list-disc pl-5">
        <li v-for="f in trouble.faults" :key="f.path">{{ f.message }}</li>
      </ul>
      <template v-else>{{ trouble.message }}</template>
      <button
        v-if="trouble.status === 0 || (!run.result.value && !trouble.faults.length)"
        class="link ml-2"
        @click="run.again()"
      >
        Try again
      </button>
      <button v-if="history.canUndo.value" class="link ml-2" @click="history.undo()">
        Undo the last step
      </button>
    </div>
    <QuestionStrip
      v-if="asking.questions.value.length"
      :asking="asking"
      :document="live"
      :fields="fields"
      :by-path="byPath"
      :phrases="run.result.value?.brief ?? []"
    />
    <p v-if="waits" class="flex-1 p-10 font-serif text-lg" role="status" data-waits>
      Answer “{{ asking.waiting.value[0]?.condition.ask?.label }}” to see the {{ set.label.toLowerCase() }}.
    </p>
    <div
      v-else-if="run.result.value"
      class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_296px] max-lg:grid-cols-[minmax(0,1fr)_248px]"
    >
      <section class="flex min-h-0 min-w-0 flex-col">
        <LevelStrip
          v-if="levels || crossed"
          :levels="run.result.value.levels"
          :depth="opening.depth"
          :one="set.one"
          :crossed="crossed"
          :charted="!!document_.chart"
          @depth="showDownTo"
          @chart="actions.toggleChart"
        />
        <NothingLeft
          v-if="run.result.value.tally.kept === 0 && run.result.value.tally.all > 0"
          :phrases="run.result.value.brief"
          :many="run.result.value.tally.many"
          @leave-out="history.step(setCondition(history.kept.value, $event, null))"
        />
        <TicksBar
          v-if="actions.ticked.value.size"
          :count="actions.ticked.value.size"
          :one="set.one"
          :many="run.result.value.tally.many"
          @keep="actions.useTicked('one_of')"
          @leave-out="actions.useTicked('none_of')"
          @clear="actions.ticked.value = new Set()"
        />
        <div
          class="grid min-h-0 flex-1"
          :class="
            charted &&
            (document_.chart?.beside ? 'grid-cols-2' : 'grid-rows-[minmax(230px,2fr)_minmax(0,2.4fr)]')
          "
        >
          <ChartPane
            v-if="charted"
            :document="document_"
            :drawing="charted"
            :fields="byPath"
            @change="history.step"
            @mark="lookAtMark"
          />
          <Ledger
            class="min-h-0"
            :run="run"
            :result="run.result.value"
            :document="live"
            :selected="actions.selected.value"
            :ticked="actions.ticked.value"
            :tickable="actions.tickable.value"
            @open="openRecord"
            @toggle="toggle"
            @select="actions.select"
            @choose="actions.selection.value = $event"
            @tick="actions.tick"
            @say="say"
            @move="actions.move"
            @resize="(column, width) => history.step(setColumn(history.kept.value, column, { width }))"
            @sort="actions.sortBy"
          />
        </div>
      </section>
      <Lens
        :set="set.key"
        :document="document_"
        :live="live"
        :result="run.result.value"
        :fields="fields"
        :by-path="byPath"
        :actions="actions"
        @change="history.step"
        @filter="filterSelected"
        @open="openRecord"
      />
    </div>
    <p v-else-if="!trouble" class="quiet flex-1 p-10">Computing …</p>
    <Tally
      v-if="run.result.value && !waits"
      :result="run.result.value"
      :running="run.state.value.kind === 'running'"
      :said="said"
      @follow="follow"
    />
    <Editors
      :editor="editor"
      :history="history"
      :run="run"
      :fields="fields"
      :by-path="byPath"
      :standard="set.standard"
      :records="set.key"
      :label="set.label"
      :linked-by="set.linkedBy"
    />
    <Teleport to="body"
      ><PrintSheet
        v-if="printing && run.result.value"
        :title="title"
        :about="saved?.description ?? ''"
        :result="run.result.value"
        :lines="run.rowsRead(true)"
        :questions="asking.questions.value"
    /></Teleport>
    <KeysDialog v-if="keysShown" @close="keysShown = false" />
  </main>
</template>
