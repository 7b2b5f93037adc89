<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { wordsOf } from '../api/problem'
import NoteForm from './NoteForm.vue'
import { useRounds } from './useRounds'
import { useSeeing } from './useSeeing'

/** Stands over a view that is to be looked at: puts it away, by hand or by its having been seen. */
const props = defineProps<{ view: string; round: string; taken: number }>()
const { ofView, look, note } = useRounds()
const round = computed(() => {
  const all = ofView(props.view).filter((r) => r.looks)
  return all.find((r) => r.key === props.round) ?? all.find((r) => r.due)
})
/** Whether it was put away here, and how. */
const away = ref<'by hand' | 'seen' | null>(null)
const noting = ref(false)
const due = computed(() => !!round.value?.due)
const waits = computed(() => due.value && !!round.value?.terms.seeing && !look.isPending.value)
function putAway(how: 'by hand' | 'seen', text = '') {
  if (!round.value || look.isPending.value) return
  look.mutate(
    { key: round.value.key, seeing: how === 'seen' || undefined, note: text || undefined },
    { onSuccess: () => (away.value = how) },
  )
}
const { seen } = useSeeing(waits, () => putAway('seen'))
watch(() => props.taken, seen) // what was taken away was seen
function keepNote(text: string) {
  if (round.value)
    note.mutate({ key: round.value.key, note: text }, { onSuccess: () => (noting.value = false) })
}
const trouble = computed(() => look.error.value ?? note.error.value)
</script>

<template>
  <div
    v-if="round && (due || away)"
    class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule border-l-4 border-l-honey bg-sheet px-4 py-1.5 text-[13px] max-md:px-3"
    role="status"
    data-round-strip
  >
    <template v-if="away">
      <span data-put-away
        >{{ away === 'seen' ? 'You have seen it' : 'You have looked at it' }}; {{ round.stand }}.</span
      >
      <NoteForm
        v-if="noting"
        label="A note for the others"
        act="Note"
        :busy="note.isPending.value"
        :start="round.last?.note"
        @keep="keepNote"
        @close="noting = false"
      />
      <template v-else>
        <span v-if="round.last?.note" class="min-w-0 truncate font-serif">“{{ round.last.note }}”</span>
        <button class="link" data-add-note @click="noting = true">
          {{ round.last?.note ? 'change the note' : 'leave a note' }} …
        </button>
      </template>
    </template>
    <template v-else>
      <span
        >To look at {{ round.stand
        }}<template v-if="round.last?.note"> · {{ round.last.by }}: “{{ round.last.note }}”</template></span
      >
      <button class="button ml-auto" :disabled="look.isPending.value" data-looked @click="putAway('by hand')">
        Looked at
      </button>
    </template>
    <span v-if="trouble" class="text-mulberry" role="alert">{{ wordsOf(trouble) }}</span>
  </div>
</template>
