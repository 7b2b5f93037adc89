import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useMediaQuery } from '@vueuse/core'
import { computed, inject, provide, ref, type InjectionKey } from 'vue'
import type { Board, BoardPart } from '../api/client'
import { queries } from '../api/queries'
import { useGiven } from '../bench/ask/useAnswers'
import { useArrivals } from '../work/useFreshness'
import type { Source } from '../work/useSource'
import { useWork } from '../work/useWork'
import { answersOf } from './answers'
import { newBoard } from './document'

/** Everything that the parts of a board's screen share: the board with its history, its views, the answers. */
export function createBoard(source: Source<Board>) {
  const work = useWork<Board>(source, { begin: newBoard, title: 'New board', at: (key) => `/b/${key}` })
  const { history, saved, place } = work
  const client = useQueryClient()
  // Answers that newer records do not concern are the same ones: to ask for them costs next to nothing.
  useArrivals(() => void client.invalidateQueries({ queryKey: ['board part'] }))
  const asks = ref(false)
  const given = useGiven(place, () => asks.value)
  const looked = useQuery(
    computed(() => queries.lookAtBoard(history.shown.value, saved.value, given.answers.value)),
  )
  const look = computed(() => looked.data.value)
  const questions = computed(() => look.value?.questions ?? [])
  const views = computed(() => new Map((look.value?.views ?? []).map((v) => [v.key, v])))

  /** The answers to the questions of a part's view. */
  const answersTo = (part: BoardPart) => answersOf(questions.value, given.answers.value, part.view ?? '')
  /** What the views ask is known, as far as it matters: without answers it does not. */
  const ready = computed(() => !Object.keys(given.answers.value).length || !!look.value)
  /** There is room to read, and none to arrange. */
  const reading = useMediaQuery('(max-width: 767px)')
  /** The part that is edited, and what its editor hangs from. */
  const editing = ref<{ key: string; anchor: HTMLElement; fresh: boolean } | null>(null)

  return {
    work,
    ...work,
    given,
    asks,
    looked,
    look,
    questions,
    views,
    answersTo,
    ready,
    reading,
    editing,
  }
}

export type BoardScreen = ReturnType<typeof createBoard>

const key: InjectionKey<BoardScreen> = Symbol('board')

export function provideBoard(source: Source<Board>): BoardScreen {
  const board = createBoard(source)
  provide(key, board)
  return board
}

/** The board that a part stands on. */
export function useBoard(): BoardScreen {
  const board = inject(key)
  if (!board) throw new Error('This part stands on a board only.')
  return board
}
