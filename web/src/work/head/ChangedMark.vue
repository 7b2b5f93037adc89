<script setup lang="ts" generic="D extends Content">
import { ref, watch } from 'vue'
import type { Content } from '../../api/client'
import { changesBetween } from '../../api/queries'
import type { Work } from '../useWork'

/** Whether what is shown differs from what was saved; a click tells how. */
const props = defineProps<{ work: Work<D> }>()
const { saved, changed, drafts, history, start } = props.work
const differs = ref<string[]>([])
const told = ref(false)
async function tell() {
  told.value = !told.value
  if (!told.value) return
  differs.value = await changesBetween(start.value, history.kept.value).catch(() => [])
}
watch(history.kept, () => (told.value = false))
</script>

<template>
  <span v-if="changed" class="relative text-xs whitespace-nowrap text-honey"
    ><button
      class="underline decoration-dotted underline-offset-2"
      :aria-expanded="told"
      :title="
        drafts.safe.value
          ? 'Kept on the server; see what changed'
          : 'Kept in this browser until the server answers'
      "
      data-changed
      @click="tell"
    >
      {{ saved ? 'changed since saved' : 'not saved' }}
    </button>
    <button class="ml-2 underline underline-offset-2" @click="history.step(start)">
      {{ saved ? 'back to saved' : 'start over' }}
    </button>
    <span
      v-if="told"
      class="absolute top-6 left-0 z-40 block w-80 max-w-[90vw] border border-rule bg-sheet p-3 whitespace-normal text-ink shadow-lg"
      role="status"
      data-differs
      ><span v-for="d in differs" :key="d" class="block border-b border-rule py-1 last:border-0">{{
        d
      }}</span></span
    ></span
  >
  <span
    v-else-if="saved?.since.length"
    class="truncate text-xs text-honey"
    data-since
    :title="saved.since.join('; ')"
    >{{ saved.since[0] }}, after this was saved{{
      saved.since.length > 1 ? `; so were ${saved.since.length - 1} more` : ''
    }}</span
  >
  <span v-else class="text-xs whitespace-nowrap text-pine" data-changed>{{
    saved ? 'as saved' : 'nothing changed yet'
  }}</span>
</template>
