<script setup lang="ts" generic="D extends Content">
import { useQuery } from '@tanstack/vue-query'
import type { Content, Saved } from '../../api/client'
import { queries } from '../../api/queries'
import { wordsOf } from '../../api/problem'
import DialogFrame from '../../shell/DialogFrame.vue'
import { formatDateTime } from '../../words'

/** Two have saved from one version: what each changed, side by side, and the choice. Nothing is lost either way. */
const props = defineProps<{ view: Saved<D>; base: number; mine: D }>()
const emit = defineEmits<{ over: [theirs: Saved<D>]; theirs: [theirs: Saved<D>]; apart: []; close: [] }>()
const { data, error } = useQuery(queries.conflict(props.view.key, props.base, props.mine))
</script>

<template>
  <DialogFrame
    :title="`“${view.name}” was saved while you worked`"
    tone="honey"
    :width="720"
    acts
    data-conflict
    @close="emit('close')"
  >
    <p v-if="error" role="alert">{{ wordsOf(error) }}</p>
    <template v-if="data">
      <p class="quiet mb-4">
        Both began from version {{ base }}. Nothing of yours was written yet, and nothing of either is lost.
      </p>
      <div class="mb-5 grid grid-cols-2 gap-6">
        <section data-theirs>
          <h3 class="mb-1 font-medium">
            {{ data.theirs.savedBy }}, {{ formatDateTime(data.theirs.savedAt) }}
            <span class="quiet font-normal">v{{ data.theirs.version }}</span>
          </h3>
          <p v-for="c in data.hers" :key="c" class="border-b border-rule py-1">{{ c }}</p>
          <p v-if="!data.hers.length" class="quiet">only the name or who sees it</p>
        </section>
        <section data-mine>
          <h3 class="mb-1 font-medium">You</h3>
          <p v-for="c in data.own" :key="c" class="border-b border-rule py-1">{{ c }}</p>
          <p v-if="!data.own.length" class="quiet">nothing that the numbers show</p>
        </section>
      </div>
      <p class="flex flex-wrap justify-end gap-3">
        <button class="button mr-auto" @click="emit('close')">Go on working</button>
        <button class="button" data-take-theirs @click="emit('theirs', data.theirs as Saved<D>)">
          Open theirs
        </button>
        <button class="button" data-save-apart @click="emit('apart')">Save mine as another</button>
        <button class="button button-act" data-save-over @click="emit('over', data.theirs as Saved<D>)">
          Save mine as v{{ data.theirs.version + 1 }}
        </button>
      </p>
      <p class="quiet mt-3 text-xs">
        “Open theirs” is a step that undo takes back. “Save mine” keeps theirs among the versions.
      </p>
    </template>
  </DialogFrame>
</template>
