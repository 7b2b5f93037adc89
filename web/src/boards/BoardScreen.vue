<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref, useTemplateRef } from 'vue'
import type { Board } from '../api/client'
import { forget } from '../api/queries'
import { wordsOf } from '../api/problem'
import { useMe } from '../session/useMe'
import { runCommand, useCommands, useKeyHints } from '../shell/commands'
import { ofList } from '../words'
import EarlierWork from '../work/unsaved/EarlierWork.vue'
import WorkHead from '../work/head/WorkHead.vue'
import type { Source } from '../work/useSource'
import AddPart from './AddPart.vue'
import { provideBoard } from './board'
import BoardQuestions from './BoardQuestions.vue'
import BoardSheet from './BoardSheet.vue'
import BoardWall from './BoardWall.vue'
import PartEditor from './PartEditor.vue'
import { shareViews } from './shareViews'

const DeliveryDialog = defineAsyncComponent(() => import('../deliveries/DeliveryDialog.vue'))
const BoardPaper = defineAsyncComponent(() => import('./BoardPaper.vue'))
/** The screen where a board is read and arranged. */
const props = defineProps<{ source: Source<Board> }>()
const board = provideBoard(props.source)
const { work, history, saved, look, reading, editing, said } = board
const { me } = useMe()
const hint = useKeyHints()
const client = useQueryClient()
const earlier = ref(props.source.earlier)
const wall = ref(false)
const paper = ref(false)
const delivering = ref(false)
const adding = ref<HTMLElement | null>(null)
const add = useTemplateRef('add')
const edited = computed(() => history.shown.value.parts.find((p) => p.key === editing.value?.key))
const problem = computed(() => board.looked.error.value)

useCommands(() => [
  { id: 'add part', title: 'Put a part on the board', key: 'p', when: () => !reading.value, run: begin },
  { id: 'wall', title: 'Show on the wall, full screen', key: 'w', run: () => (wall.value = true) },
  { id: 'print', title: 'On paper …', key: 'Ctrl P  e', run: () => (paper.value = true) },
  {
    id: 'deliver',
    title: 'Deliver …',
    key: 'd',
    when: () => !!saved.value && !!me.value?.saves,
    run: () => (delivering.value = true),
  },
  { id: 'refresh', title: 'Read the figures again', key: 'u', run: refresh },
  { id: 'undo', title: 'Undo', key: 'Ctrl Z', run: history.undo },
  { id: 'redo', title: 'Redo', key: 'Ctrl Shift Z', run: history.redo },
])
function begin() {
  adding.value = add.value
}
async function refresh() {
  await forget(client, 'board', 'board part')
  board.say('Read again.')
}
/** Lets everyone see the board's views who sees the board. */
const sharing = useMutation({
  mutationFn: () => shareViews(board.views.value, saved.value?.shares ?? []),
  onSuccess: async (left) => {
    await forget(client, 'board', 'board part', 'views')
    board.say(left ? `${left} of them belong to others, who alone can share them.` : 'They are shared, too.')
  },
})
</script>

<template>
  <main class="flex min-h-0 flex-col print:block" data-board>
    <section class="border-b border-rule bg-paper px-5 pt-3 pb-3 max-md:px-3 print:border-0 print:px-0">
      <WorkHead
        :work="work"
        what="board"
        :brief="look?.sentence ?? ''"
        :acts="[
          ['save-as', 'name', 'copy-link'],
          ['print', 'deliver', 'wall', 'refresh'],
        ]"
      >
        <template #acts>
          <button
            ref="add"
            class="button"
            :title="hint('add part')"
            data-add-part
            @click="runCommand('add part')"
          >
            Add a part
          </button>
          <button class="button" :title="hint('wall')" data-wall-open @click="runCommand('wall')">
            On the wall
          </button>
        </template>
      </WorkHead>
      <EarlierWork v-if="earlier" :earlier="earlier" @gone="earlier = null" />
      <p class="font-serif text-lg max-md:line-clamp-2 max-md:text-base print:hidden" data-sentence>
        {{ look?.sentence }}
      </p>
    </section>
    <p
      v-if="problem"
      class="border-b border-rule bg-mulberry-wash px-5 py-2 max-md:px-3"
      role="alert"
      data-trouble
    >
      {{ wordsOf(problem) }}
      <button v-if="history.canUndo.value" class="link ml-2" @click="history.undo()">
        Undo the last step
      </button>
    </p>
    <BoardQuestions />
    <p
      v-if="look?.narrower.length && saved?.owned"
      class="border-b border-rule px-5 py-1.5 text-[13px] text-honey max-md:px-3 print:hidden"
      role="status"
      data-narrower
    >
      Not everyone who sees this board sees {{ ofList(look.narrower.map((n) => `“${n}”`)) }}; their parts stay
      empty for them.
      <button v-if="me?.saves" class="link" :disabled="sharing.isPending.value" @click="sharing.mutate()">
        Share with the same people
      </button>
      <span v-if="sharing.error.value" role="alert"> {{ wordsOf(sharing.error.value) }}</span>
    </p>
    <BoardSheet v-if="!wall" @add="begin" />
    <p class="sr-only" role="status">{{ said }}</p>
    <p
      v-if="said"
      class="fixed bottom-4 left-5 z-20 border border-rule bg-sheet px-3 py-1.5 text-[13px]"
      aria-hidden="true"
    >
      {{ said }}
    </p>
    <AddPart v-if="adding" :anchor="adding" @done="adding = null" />
    <PartEditor
      v-if="editing && edited"
      :key="editing.key"
      :part="edited"
      :anchor="editing.anchor"
      :fresh="editing.fresh"
      @done="editing = null"
    />
    <BoardPaper
      v-if="paper"
      :board="history.shown.value"
      :saved="saved?.key"
      :name="board.title.value"
      :answers="board.given.answers.value"
      @close="paper = false"
    />
    <DeliveryDialog
      v-if="delivering && saved"
      kind="board"
      :view="saved.key"
      :name="saved.name"
      :now="board.given.answers.value"
      @close="delivering = false"
      @said="board.say"
    />
    <BoardWall v-if="wall" @close="wall = false" />
  </main>
</template>
