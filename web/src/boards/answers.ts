import type { Schemas } from '../api/client'
import type { Answers } from '../bench/ask/answers'

type Question = Pick<Schemas['BoardQuestion'], 'name' | 'of'>

/** The answers to a view's own questions among those given to the board's. */
export function answersOf(questions: readonly Question[], given: Answers, view: string): Answers {
  return Object.fromEntries(
    questions.flatMap((q) => {
      const answer = given[q.name]
      return answer ? q.of.filter((o) => o.view === view).map((o) => [o.name, answer]) : []
    }),
  )
}

/** Where a view opens with answers. */
export const viewWith = (view: string, answers: Answers, group?: string) => ({
  path: `/v/${view}`,
  query: { answers: Object.keys(answers).length ? JSON.stringify(answers) : undefined, group },
})
