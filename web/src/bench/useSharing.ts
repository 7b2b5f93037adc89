import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { api, unwrap } from '../api/client'
import { forget } from '../api/queries'
import { wordsOf } from '../api/problem'
import { forgetDerived, makes } from './derivedFields'
import { makesField } from './editing/editing'
import type { Editor } from './editing/useEditing'
import type { History } from '../work/useHistory'

/** Saves what is being edited for all views of the records; the view then uses that. */
export function useSharing(editor: Editor, history: History, records: () => string) {
  const client = useQueryClient()
  const trouble = ref('')

  async function share() {
    const open = editor.editing.value
    const doc = history.shown.value
    trouble.value = ''
    if (!makesField(open) || editor.unfinished.value) return
    const before = new Set(makes(open.before).map((x) => x.key))
    const fresh = (key: string) => key === open.made?.key || (!open.made && !before.has(key))
    const calculated = open.kind === 'calculate' ? doc.calculated?.find((c) => fresh(c.key)) : undefined
    const bucket = open.kind === 'bucket' ? doc.buckets?.find((b) => fresh(b.key)) : undefined
    const linked = open.kind === 'linkedValue' ? doc.linked?.find((l) => fresh(l.key)) : undefined
    const found = open.kind === 'beside' ? doc.beside?.find((b) => fresh(b.key)) : undefined
    // A definition knows no view's conditions: it is worked out among all records.
    const beside = found && { ...found, among: found.among ?? { all: [] } }
    const made = calculated ?? bucket ?? linked ?? beside
    if (!made) return
    // Bands go by a field that may be made here, too: that is shared with them.
    const calculatedBelow = doc.calculated?.find((c) => c.key === bucket?.of)
    const linkedBelow = doc.linked?.find((l) => l.key === bucket?.of)
    const below = calculatedBelow ?? linkedBelow
    try {
      if (below)
        await unwrap(
          api.POST('/api/definitions', {
            body: { records: records(), calculated: calculatedBelow, linked: linkedBelow },
          }),
        )
      await unwrap(
        api.POST('/api/definitions', { body: { records: records(), calculated, bucket, linked, beside } }),
      )
    } catch (cause) {
      const needed = doc.calculated?.find((c) => c.key !== made.key && calculated?.formula.includes(c.label))
      trouble.value = needed
        ? `${wordsOf(cause)} “${needed.label}” is made in this view only; save it for all views first.`
        : wordsOf(cause)
      return
    }
    await forget(client, 'fields')
    void forget(client, 'definitions')
    history.tryOut(forgetDerived(below ? forgetDerived(doc, below.key) : doc, made.key))
    editor.keep()
  }
  return { share, trouble }
}
