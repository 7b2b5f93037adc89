<script setup lang="ts">
import {
  acceptCompletion,
  autocompletion,
  closeBrackets,
  completionKeymap,
  type Completion,
  type CompletionContext,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap, insertNewline } from '@codemirror/commands'
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language'
import { setDiagnostics } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, keymap, placeholder } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import type { Field, FormulaFault, FormulaFunction } from '../../api/client'
import { nameIn } from '../derivedFields'

/** The line in which a formula is typed: coloured, completed, its faults underlined. */
const source = defineModel<string>({ required: true })
const props = defineProps<{
  fields: readonly Field[]
  functions: readonly FormulaFunction[]
  faults: readonly FormulaFault[]
}>()
const host = useTemplateRef('host')
let view: EditorView | undefined

const language = StreamLanguage.define({
  token(stream) {
    if (stream.match(/^'(?:[^']|'')*'?/)) return 'variableName'
    if (stream.match(/^"(?:[^"]|"")*"?/)) return 'string'
    if (stream.match(/^[0-9]*\.?[0-9]+%?/)) return 'number'
    if (stream.match(/^[\p{L}_][\p{L}\p{N}_.]*(?=\s*\()/u)) return 'keyword'
    if (stream.match(/^[\p{L}_][\p{L}\p{N}_.]*/u)) return 'variableName'
    stream.next()
    return 'operator'
  },
})
const colours = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--color-honey)', fontWeight: '600' },
  { tag: tags.variableName, color: 'var(--color-ink)', fontWeight: '600' },
  { tag: tags.string, color: 'var(--color-pine)' },
  { tag: tags.number, color: 'var(--color-slate)' },
  { tag: tags.operator, color: 'var(--color-mute)' },
])
const look = EditorView.theme({
  '&': {
    border: '1px solid var(--color-edge)',
    borderRadius: '2px',
    backgroundColor: 'var(--color-sheet)',
    fontSize: '15px',
  },
  '&.cm-focused': { outline: '2px solid var(--color-honey)' },
  '.cm-content': {
    fontFamily: 'var(--font-sans)',
    caretColor: 'var(--color-ink)',
    padding: '7px 4px',
    minHeight: '36px',
  },
  '.cm-tooltip': {
    border: '1px solid var(--color-rule)',
    backgroundColor: 'var(--color-sheet)',
    color: 'var(--color-ink)',
  },
  '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--font-sans)', maxHeight: '14em' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li': { padding: '3px 8px' },
  '.cm-tooltip-autocomplete ul li[aria-selected]': {
    background: 'var(--color-mulberry-wash)',
    color: 'var(--color-ink)',
  },
  '.cm-completionDetail': { fontStyle: 'normal', color: 'var(--color-mute)', marginLeft: '1em' },
  '.cm-completionInfo': { maxWidth: '280px', padding: '8px 10px' },
  '.cm-lintRange-error': {
    backgroundImage: 'none',
    borderBottom: '2px wavy var(--color-mulberry)',
    textDecoration: 'underline wavy var(--color-mulberry)',
  },
  '.cm-placeholder': { color: 'var(--color-mute)' },
})

function complete(context: CompletionContext) {
  const open = context.matchBefore(/'[^']*$/)
  const word = context.matchBefore(/[\p{L}_][\p{L}\p{N}_]*$/u)
  if (!open && !word && !context.explicit) return null
  const fields: Completion[] = props.fields
    .filter((f) => f.type !== 'picture')
    .map((f) => ({
      label: f.label,
      apply: nameIn(props.fields, f),
      type: 'variable',
      boost: f.way.length ? -f.way.length : 2,
      detail: [f.typeName, f.way.join(' › ')].filter(Boolean).join(' · '),
      info: [f.meaning, f.samples.slice(0, 3).join(', ')].filter(Boolean).join(' — ') || undefined,
    }))
  const functions: Completion[] = open
    ? []
    : props.functions.map((f) => ({
        label: f.name,
        type: 'function',
        detail: `(${f.arguments})`,
        info: `${f.meaning} ${f.blanks}`,
        apply: f.arguments ? `${f.name}(` : `${f.name}()`,
      }))
  return {
    from: (open ?? word)?.from ?? context.pos,
    options: [...fields, ...functions],
    filter: !open,
    ...(open && { options: matching(fields, open.text.slice(1)) }),
  }
}
/** Fields that hold what stands behind an opened quote. */
function matching(fields: Completion[], typed: string): Completion[] {
  return fields.filter((f) => f.label.toLowerCase().includes(typed.toLowerCase())).slice(0, 50)
}

onMounted(() => {
  view = new EditorView({
    parent: host.value!,
    state: EditorState.create({
      doc: source.value,
      selection: { anchor: source.value.length },
      extensions: [
        history(),
        closeBrackets(),
        language,
        syntaxHighlighting(colours),
        look,
        EditorView.lineWrapping,
        autocompletion({ override: [complete], icons: false }),
        placeholder("Type a formula: 'Claimed' - 'Paid', or SUM('Paid') / SUM('Claimed')"),
        // Enter keeps the editor around; it must not break the line.
        keymap.of([
          { key: 'Enter', run: acceptCompletion },
          { key: 'Tab', run: acceptCompletion },
          { key: 'Shift-Enter', run: insertNewline },
        ]),
        keymap.of([
          ...completionKeymap.filter((k) => k.key !== 'Enter'),
          ...defaultKeymap.filter((k) => k.key !== 'Enter' && k.key !== 'Escape'),
          ...historyKeymap,
        ]),
        EditorView.contentAttributes.of({ 'aria-label': 'Formula', role: 'textbox', 'data-formula': '' }),
        EditorView.updateListener.of((u) => u.docChanged && (source.value = u.state.doc.toString())),
      ],
    }),
  })
  setTimeout(() => view?.focus(), 40)
})
watch(source, (text) => {
  if (view && text !== view.state.doc.toString()) {
    view.dispatch({
      changes: { from: 0, to: view.state.doc.length, insert: text },
      selection: { anchor: text.length },
    })
    view.focus()
  }
})
watch(
  () => props.faults,
  (faults) => {
    if (!view) return
    const end = view.state.doc.length
    const marks = faults
      .filter((f) => f.to > 0)
      .map((f) => {
        const from = Math.min(f.from, Math.max(0, end - 1))
        return {
          from,
          to: Math.max(from, Math.min(f.to, end)),
          severity: 'error' as const,
          message: f.message,
        }
      })
    view.dispatch(setDiagnostics(view.state, marks))
  },
)
onBeforeUnmount(() => view?.destroy())
</script>

<template>
  <div ref="host"></div>
</template>
