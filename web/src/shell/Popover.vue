<script setup lang="ts">
import { onClickOutside, useEventListener, useMutationObserver } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import { holdFocus, keyIsDown } from './returnFocus'

/**
 * A small editor that hangs from the phrase it edits. Enter and a click elsewhere
 * keep what was done; Esc takes it back.
 */
const props = defineProps<{
  anchor: HTMLElement
  label: string
  tone: 'mulberry' | 'pine' | 'slate' | 'ink' | 'honey'
  width?: number
  tall?: number
  /** It is about to be kept. */
  busy?: boolean
}>()
const emit = defineEmits<{ keep: []; revert: [] }>()
const box = useTemplateRef('box')
const giveBack = holdFocus(props.anchor)
onBeforeUnmount(() => giveBack(box.value))
const width = props.width ?? 520
const place = ref({ left: 12, top: 100 })

function settle() {
  if (!props.anchor.isConnected) return // it was drawn anew; the place stays
  const at = props.anchor.getBoundingClientRect()
  place.value = {
    left: Math.max(12, Math.min(at.left, window.innerWidth - width - 12)),
    top: Math.max(12, Math.min(at.bottom + 6, window.innerHeight - (props.tall ?? 260))),
  }
}

onMounted(() => {
  settle()
  box.value?.focus() // keys belong to the editor from now on
  // The key that opened the editor is not typed into it, however long it is held.
  if (!keyIsDown()) setTimeout(enter, 30)
})
useEventListener('keyup', () => setTimeout(enter))
useEventListener('focus', () => setTimeout(enter)) // it was let go in another window
function enter() {
  if (!box.value || document.activeElement !== box.value) return
  // Never a button: Enter, which keeps, would press it.
  const first =
    box.value.querySelector<HTMLElement>('[data-first]') ??
    box.value.querySelector<HTMLElement>('input, select')
  first?.focus()
}
// What had the focus can be taken away by its own act, as a line is by its ×: keys stay here.
useMutationObserver(
  box,
  () => {
    if (document.activeElement === document.body) box.value?.focus()
  },
  { childList: true, subtree: true },
)
useEventListener('resize', settle)
onClickOutside(box, () => emit('keep'), { ignore: [computed(() => props.anchor)] })

function onKey(event: KeyboardEvent) {
  if (event.key === 'Escape' && !event.defaultPrevented) {
    event.preventDefault()
    event.stopPropagation()
    emit('revert')
  } else if (event.key === 'Enter' && !event.defaultPrevented) {
    // Buttons and links act by themselves.
    if (event.target instanceof HTMLButtonElement || event.target instanceof HTMLTextAreaElement) return
    event.preventDefault()
    emit('keep')
  } else if (event.key === 'Tab') {
    hold(event)
  }
  event.stopPropagation() // keys of the screen beneath do not reach through; see shell/commands.ts
}

/** Keeps the focus within while the editor is open. */
function hold(event: KeyboardEvent) {
  const stops = [
    ...(box.value?.querySelectorAll<HTMLElement>(
      'input, select, textarea, button, [contenteditable=true], [tabindex="0"]',
    ) ?? []),
  ].filter((e) => !e.hasAttribute('disabled'))
  const edge = event.shiftKey ? stops[0] : stops.at(-1)
  if (document.activeElement !== edge) return
  event.preventDefault()
  ;(event.shiftKey ? stops.at(-1) : stops[0])?.focus()
}

const tones = {
  mulberry: 'border-t-mulberry',
  pine: 'border-t-pine',
  slate: 'border-t-slate',
  ink: 'border-t-ink',
  honey: 'border-t-honey',
}
</script>

<template>
  <Teleport to="body">
    <div
      ref="box"
      role="dialog"
      tabindex="-1"
      :aria-label="label"
      :aria-busy="busy"
      data-popover
      class="fixed z-30 flex outline-none flex-col border border-t-3 border-rule bg-sheet shadow-xl"
      :class="tones[tone]"
      :style="{
        left: `${place.left}px`,
        top: `${place.top}px`,
        width: `min(${width}px, calc(100vw - 24px))`,
        maxHeight: `calc(100vh - ${place.top + 12}px)`,
      }"
      @keydown="onKey"
    >
      <div class="min-h-0 flex-1 overflow-auto p-4"><slot /></div>
      <footer class="flex items-center gap-4 border-t border-rule px-4 py-2.5">
        <div class="min-w-0 flex-1"><slot name="foot" /></div>
        <button class="quiet inline-flex items-center gap-1.5" @click="emit('revert')">
          <kbd class="key">Esc</kbd> revert
        </button>
        <button class="inline-flex items-center gap-1.5 font-medium" @click="emit('keep')">
          <kbd class="key">Enter</kbd> keep
        </button>
      </footer>
    </div>
  </Teleport>
</template>
