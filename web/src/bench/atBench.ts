import { shallowRef, type Ref } from 'vue'
import type { Field } from '../api/client'

export interface Command {
  name: string
  key: string
  run: () => void
}

/** What the bench that is open offers to Ctrl K; null on other screens. */
export const bench = shallowRef<{
  fields: Ref<readonly Field[]>
  addColumn: (path: string) => void
  commands: Ref<readonly Command[]>
} | null>(null)
