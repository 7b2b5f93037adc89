<script setup lang="ts">
import { useMutation, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Board, Schemas } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import type { Answers } from '../bench/ask/answers'
import DialogFrame from '../shell/DialogFrame.vue'
import { takeBoard } from '../takeaway/making'
import PageSheet from '../takeaway/PageSheet.vue'

/** A board on its way to paper: the very pages that print, and the sheet they stand on. */
const props = defineProps<{ board: Board; saved?: string; name: string; answers: Answers }>()
const emit = defineEmits<{ close: [] }>()
type Paper = NonNullable<Schemas['BoardTaking']['paper']>
const sizes = ['A4', 'A3', 'Letter', 'Legal'] as const
const size = ref<NonNullable<Paper['size']>>('A4')
const sideways = ref(true)
const taking = computed(() => ({
  board: props.board,
  saved: props.saved,
  name: props.name,
  answers: props.answers,
  paper: { size: size.value, sideways: sideways.value || undefined },
}))
const pages = useQuery(computed(() => queries.boardPages(taking.value)))
const make = useMutation({ mutationFn: () => takeBoard(taking.value), onSuccess: () => emit('close') })
const trouble = computed(() => pages.error.value ?? make.error.value)
</script>

<template>
  <DialogFrame title="On paper" :width="980" acts data-board-paper @close="emit('close')">
    <div class="grid grid-cols-[minmax(0,1fr)_13rem] gap-6 max-md:grid-cols-1">
      <div
        class="max-h-[65vh] space-y-3 overflow-auto bg-paper p-3"
        tabindex="0"
        role="region"
        aria-label="The pages as they print"
      >
        <PageSheet v-for="p in pages.data.value?.pages" :key="p.number" :page="p" />
        <p v-if="pages.isPending.value && !trouble" class="quiet">Laying it out …</p>
      </div>
      <form class="flex flex-col gap-3" @submit.prevent="make.mutate()">
        <label class="block"
          ><span class="mb-1 block font-medium">Sheet</span
          ><select v-model="size" class="field" name="size">
            <option v-for="s in sizes" :key="s">{{ s }}</option>
          </select></label
        >
        <label class="flex items-baseline gap-1.5"
          ><input v-model="sideways" type="checkbox" class="accent-mulberry" /> on its side</label
        >
        <p v-if="pages.data.value" class="quiet text-[13px]" data-page-count>
          {{ pages.data.value.pages.length === 1 ? 'One page' : `${pages.data.value.pages.length} pages` }}
        </p>
        <p v-if="trouble" class="text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
        <button class="button button-act" type="submit" :disabled="make.isPending.value" data-make-paper>
          Make the PDF
        </button>
      </form>
    </div>
  </DialogFrame>
</template>
