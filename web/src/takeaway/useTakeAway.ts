import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Document } from '../api/client'
import { queries } from '../api/queries'
import type { Frozen } from '../api/frozen'
import { wordsOf } from '../api/problem'
import { usePersonal } from '../session/usePersonal'
import { clipboardLines, optionsOf, usual, type Choices, type What } from './choices'
import { read, take } from './making'

type Paper = NonNullable<Document['paper']>

/** What is taken away: one view as it stands, or several saved ones. */
export interface Taken {
  /** Under what the choices are remembered. */
  memory: string
  name: string
  /** Of a view that is taken as it was saved: a program can ask for it again. */
  key?: string
  /** None: several saved views. */
  document?: Document
  keys?: readonly string[]
  /** As what, if not as the last time. */
  what?: What
  /** How far the groups are open on screen. */
  depth?: number
  /** What answers in place of the records as they are. */
  frozen?: Frozen
}

/** The choices of one taking, its preview, and the act. */
export function useTakeAway(of: Taken, done: (said: string) => void) {
  const levels = of.document?.groups?.length ?? 0
  const crosstab = !!of.document?.across?.length || !!of.frozen?.totals
  // Elsewhere than at the bench, a view opens with its groups and without their records.
  const depth = Math.min(of.depth ?? Math.max(0, levels - 1), crosstab ? levels - 1 : levels)
  const first = usual(of.document ? depth : -1, levels)
  const remembered = usePersonal<Partial<Choices>>(`taken.${of.memory}`, {})
  const choices = ref<Choices>({ ...first, ...copyOf(remembered.value) })
  if (of.what) choices.value.what = of.what
  // How far groups are open is what is on screen, not what was there the last time.
  choices.value.spreadsheet.depth = first.spreadsheet.depth

  /** How it goes on paper; changed here, it is a step of the view. */
  const usualPaper = usePersonal<Paper>('paper', {})
  const paper = ref<Paper>(copyOf(of.document?.paper ?? usualPaper.value))
  const paperBefore = JSON.stringify(paper.value)
  /** It was set up here. */
  const paperChanged = () => JSON.stringify(paper.value) !== paperBefore
  /** Views that are not set up for paper themselves begin like this one from now on. */
  function keepAsUsual() {
    usualPaper.value = copyOf({ ...paper.value, title: undefined, subtitle: undefined, lines: undefined })
  }
  const document = computed<Document | undefined>(() => {
    if (!of.document) return undefined
    const set = copyOf(paper.value)
    return Object.keys(set).length ? { ...of.document, paper: set } : of.document
  })

  const columns = shallowRef<readonly { key: string; heading: string }[]>([])
  const options = computed(() => optionsOf(choices.value, columns.value))
  const asked = shallowRef(options.value)
  watch(
    options,
    useDebounceFn(() => (asked.value = options.value), 120),
  )
  const preview = useQuery(
    computed(() => ({
      ...queries.exportPreview(
        of.name,
        asked.value.format === 'pdf' ? undefined : of.document,
        asked.value,
        of.frozen,
      ),
      placeholderData: keepPreviousData,
      retry: false,
    })),
  )
  watch(
    () => preview.data.value?.columns,
    (now) => (columns.value = now?.length ? now : []),
    { immediate: true }, // it may be known from a moment ago
  )

  const busy = ref(false)
  const trouble = ref('')
  /** More lines than the clipboard takes. */
  const tooMany = computed(
    () => choices.value.what === 'clipboard' && (preview.data.value?.lines ?? 0) > clipboardLines,
  )
  async function go() {
    if (busy.value || tooMany.value) return
    busy.value = true
    trouble.value = ''
    remembered.value = copyOf(choices.value) // while this is there to write it
    const body = document.value
      ? { name: of.name, view: document.value, options: options.value }
      : { views: [...(of.keys ?? [])], options: options.value }
    try {
      if (choices.value.what === 'clipboard') done(await copy(body.view ? body : null))
      else {
        await take(body, of.frozen)
        done('')
      }
    } catch (problem) {
      trouble.value = wordsOf(problem)
    } finally {
      busy.value = false
    }
  }
  async function copy(body: Parameters<typeof read>[0] | null): Promise<string> {
    if (!body) return ''
    const text = await read(body, of.frozen)
    const html = await read(
      { ...body, options: { ...body.options, format: 'html', separator: undefined } },
      of.frozen,
    )
    await navigator.clipboard.write([
      new ClipboardItem({
        'text/plain': new Blob([text], { type: 'text/plain' }),
        'text/html': new Blob([html], { type: 'text/html' }),
      }),
    ])
    return 'The lines are in the clipboard.'
  }
  return {
    choices,
    options,
    columns,
    preview,
    paper,
    paperChanged,
    keepAsUsual,
    document,
    levels,
    crosstab,
    busy,
    trouble,
    tooMany,
    go,
  }
}

/** A copy that shares nothing, also of what Vue watches. */
const copyOf = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
