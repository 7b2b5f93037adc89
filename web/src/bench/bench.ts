import { useQuery } from '@tanstack/vue-query'
import { useMediaQuery } from '@vueuse/core'
import { computed, inject, provide, ref, watch, type InjectionKey } from 'vue'
import { useRouter } from 'vue-router'
import type { Field, Fn, Phrase, Trouble } from '../api/client'
import { queries } from '../api/queries'
import type { Filled } from '../facts/useFilling'
import { selectionOf } from '../overview/selection'
import { keepTrail } from '../record/trail'
import { useSettling } from '../shell/commands'
import { useAnswers } from './ask/useAnswers'
import { makings } from './derivedFields'
import { addCondition, addGroup, newDocument, type Axis } from './document'
import { filters, makesField, type AddWhat } from './editing/editing'
import { useEditing } from './editing/useEditing'
import { useFields } from './useFields'
import { useFreshness } from '../work/useFreshness'
import { useWork } from '../work/useWork'
import { useOpening } from './useOpening'
import { useRun } from './useRun'
import { useSelection } from './useSelection'
import { useSharing } from './useSharing'
import type { ViewSource } from './useViewSource'

/** Everything that the parts of a bench share: the view with its history, its answer, what is chosen and edited. */
export function createBench(source: ViewSource) {
  const router = useRouter()
  const { set } = source
  const work = useWork(source, {
    begin: newDocument(set),
    title: `New view of ${set.label.toLowerCase()}`,
    at: (key) => `/v/${key}`,
  })
  const { place, history, say } = work

  const opening = useOpening(history.shown)
  const asking = useAnswers(history.shown, place)
  const waits = computed(() => asking.waiting.value.length > 0)
  const run = useRun(asking.live, opening.now, waits)
  const freshness = useFreshness(
    computed(() => run.result.value?.result ?? ''),
    computed(() => run.state.value.kind === 'ready'),
    () => void run.again(),
  )
  const { fields, byPath } = useFields(
    ref(set.key),
    computed(() => run.result.value?.made),
  )
  const offered = useQuery(queries.linkedOffers(set.key))
  const offers = computed(() => offered.data.value?.offers ?? [])
  const editor = useEditing(history, run, byPath, ref(set.linkedBy))
  const sharing = useSharing(editor, history, () => set.key)
  const selection = useSelection(history, set, byPath)
  watch(history.shown, () => (selection.chosen.value = null))
  useSettling(async () => {
    await editor.keepAnswered()
    return editor.editing.value === null
  })
  /** There is room to read, and none to edit. */
  const reading = useMediaQuery('(max-width: 767px)')

  /** Counts how often the result was taken away. */
  const taken = ref(0)

  /** What the server says is wrong with the view, unless the editor that is open says it itself. */
  const trouble = computed(() => {
    const open = editor.editing.value
    const own = filters(open) || makesField(open)
    return run.state.value.kind === 'failed' && !own ? run.state.value.problem : null
  })

  /** The part of the screen that holds the sentence: editors hang from its words. */
  const sentence = ref<HTMLElement | null>(null)
  const wordFor = (selector: string) => sentence.value?.querySelector<HTMLElement>(selector)

  /** Opens the editor of a phrase. */
  function edit(phrase: Phrase, anchor: HTMLElement) {
    if (reading.value) return say('Here one reads. Change a view where the window is wider.')
    const group = /^(groups|across)\[(\d+)\]/.exec(phrase.path)
    if (phrase.kind === 'filter') void editor.openCondition(phrase.path, anchor, unanswer(phrase))
    else if (phrase.kind === 'made') editDerived(phrase, anchor)
    else if (group) void editor.openGroup(group[1] as Axis, Number(group[2]), anchor)
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
    const own = /^(calculated|buckets|linked|beside)\[(\d+)\]/.exec(phrase.path)
    if (own) void editor.openMade(own[1] as (typeof makings)[number], Number(own[2]), anchor)
    else
      void router.push({ path: '/definitions', query: { open: phrase.path.replace(/^definitions\./, '') } })
  }
  /** Asks which groups of a level are to be kept by a total: the innermost, if none is named. */
  function keepGroups(field: string, fn: string, level?: number) {
    const index = (level ?? history.kept.value.groups?.length ?? 0) - 1
    const anchor = wordFor(`[data-phrase="groups[${index}]"]`)
    if (!anchor) return
    const keeping = { field, fn: fn as Fn, op: 'over' as const }
    void editor.openGroup('groups', index, anchor, fn ? keeping : { op: 'over' })
  }
  /** Opens the editor that adds something, hanging from its word in the sentence if from nothing else. */
  function add(what: AddWhat, from?: HTMLElement) {
    const anchor = from ?? wordFor(`[data-add=${what}]`)
    if (!anchor) return
    if (what === 'calculate') void editor.openDerived(what, null, anchor)
    else if (what === 'bucket') void editor.openDerived(what, null, anchor, selection.bucketable.value)
    else if (what !== 'filter' && what !== 'group' && what !== 'ask') void editor.open({ kind: what, anchor })
    else void editor.open({ kind: 'find', purpose: what, beside: null, anchor })
  }
  /** Goes where a problem of the tally leads. */
  function follow(t: Trouble) {
    const anchor = wordFor(`[data-phrase="${t.phrase}"], [data-unfold], [data-add=filter]`)
    const field = t.group ? byPath.value.get(t.group) : undefined
    if (t.condition) history.step(addCondition(history.kept.value, t.condition).doc)
    else if (t.phrase && anchor) void editor.openCondition(t.phrase, anchor)
    else if (field) history.step(addGroup(history.kept.value, field))
  }

  /** What was filled in last, with the way back; and where a fact is being filled in. */
  const filled = ref<Filled | null>(null)
  const filling = ref<{ field: Field; record: string; anchor: HTMLElement; typed?: string } | null>(null)
  function fillIn(record: string, column: number, anchor: HTMLElement, typed?: string) {
    const field = byPath.value.get(run.result.value?.columns[column]?.field ?? '')
    if (field?.fillIn && !reading.value) filling.value = { field, record, anchor, typed }
  }
  function tookIn(done: Filled | null) {
    filling.value = null
    if (!done) return
    filled.value = done
    void run.again()
  }

  function openRecord(record: string) {
    keepTrail({
      set: set.key,
      from: router.currentRoute.value.fullPath,
      document: asking.live.value,
      depth: opening.now.value.depth,
      toggled: [...opening.now.value.toggled],
      row: run.rowOf(record),
    })
    void router.push(`/r/${set.key}/${encodeURIComponent(record)}`)
  }
  /** Goes to what each field of the records holds that the filter keeps. */
  function lookOver() {
    const selection = JSON.stringify(selectionOf(asking.live.value))
    void router.push({ path: `/overview/${set.key}`, state: { selection } })
  }

  return {
    ...work,
    source,
    set,
    work,
    opening,
    asking,
    live: asking.live,
    waits,
    run,
    freshness,
    fields,
    byPath,
    offers,
    editor,
    sharing,
    selection,
    reading,
    sentence,
    trouble,
    taken,
    edit,
    keepGroups,
    add,
    follow,
    filled,
    filling,
    fillIn,
    tookIn,
    lookOver,
    openRecord,
  }
}

export type Bench = ReturnType<typeof createBench>

const key: InjectionKey<Bench> = Symbol('bench')

export function provideBench(source: ViewSource): Bench {
  const bench = createBench(source)
  provide(key, bench)
  return bench
}

/** The bench that a part of it stands on. */
export function useBench(): Bench {
  const bench = inject(key)
  if (!bench) throw new Error('This part stands on a bench only.')
  return bench
}
