<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Filling, RecordFact } from '../api/client'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'
import { formatCount } from '../words'
import { pastedLines } from './pasted'
import { useFilling, type Filled } from './useFilling'

/** Fills a fact in for many records at once: two pasted columns, looked at before anything is written. */
const props = defineProps<{ set: string; one: string; many: string; fact: RecordFact }>()
const emit = defineEmits<{ close: []; filled: [filled: Filled] }>()
const { fill } = useFilling()
const text = ref('')
const lines = computed(() => pastedLines(text.value, props.fact.label))
const look = ref<Filling | null>(null)
const tooMany = computed(() => lines.value.length > 20_000)
const key = props.fact.key ?? ''
const send = (check: boolean) => fill.mutateAsync({ set: props.set, fact: key, values: lines.value, check })
const examine = useDebounceFn(async () => {
  const of = text.value
  if (!lines.value.length || tooMany.value) return void (look.value = null)
  const got = await send(true).catch(() => null)
  if (text.value === of) look.value = got
}, 250)
watch(text, () => {
  look.value = null
  void examine()
})
const writes = computed(() => (look.value ? look.value.new + look.value.changed + look.value.emptied : 0))
const counts = computed(() =>
  look.value
    ? [
        [look.value.new, 'filled in for the first time'],
        [look.value.changed, 'changed'],
        [look.value.emptied, 'emptied'],
        [look.value.same, 'as they are already'],
      ].filter(([n]) => n)
    : [],
)
async function write() {
  const got = await send(false).catch(() => null)
  if (!got) return
  emit('filled', {
    words: `${props.fact.label} of ${formatCount(got.written)} ${props.many} is filled in.`,
    batch: got.batch,
    set: props.set,
    fact: key,
  })
}
</script>

<template>
  <DialogFrame
    :title="`${fact.label}: paste values`"
    tone="honey"
    acts
    :width="640"
    data-paste
    @close="emit('close')"
  >
    <p class="mb-2">
      Two columns, as they are copied from a spreadsheet: what
      {{ one === 'person' ? 'the person' : `the ${one}` }} is known by, and the value. An empty value takes
      what stands there away.
    </p>
    <textarea
      v-model="text"
      class="field font-mono text-[13px]"
      rows="8"
      name="paste"
      spellcheck="false"
      aria-label="Two columns"
    ></textarea>
    <p v-if="tooMany" class="mt-2 text-mulberry" role="alert">
      At most 20,000 lines are taken at a time; these are {{ formatCount(lines.length) }}. Paste a part of
      them.
    </p>
    <p v-if="fill.error.value" class="mt-2 text-mulberry" role="alert">{{ wordsOf(fill.error.value) }}</p>
    <div v-if="look" class="mt-3" role="status" data-paste-look>
      <p>
        <template v-if="counts.length"
          ><span v-for="([n, words], i) in counts" :key="words"
            >{{ i ? ', ' : '' }}{{ formatCount(Number(n)) }} {{ words }}</span
          >; found by {{ look.by.toLowerCase() }}.</template
        ><template v-else>None of these is known.</template>
      </p>
      <template v-if="look.unreads">
        <p class="mt-2 text-honey">{{ formatCount(look.unreads) }} lines come to nothing:</p>
        <ul class="max-h-40 overflow-auto border-y border-rule text-[13px]">
          <li v-for="u in look.unread" :key="u.place" class="grid grid-cols-[12rem_8rem_1fr] gap-3 py-0.5">
            <span class="truncate" :title="u.record">{{ u.record }}</span><span
              class="truncate"
              :title="u.value"
              >{{ u.value }}</span
            ><span class="quiet">{{ u.reason }}</span>
          </li>
        </ul>
      </template>
    </div>
    <p class="mt-4 flex items-center gap-4">
      <button
        class="button button-act"
        data-paste-write
        :disabled="!writes || fill.isPending.value"
        @click="write"
      >
        {{ writes ? `Fill in ${formatCount(writes)}` : 'Fill in' }}
      </button>
      <button class="link" @click="emit('close')">Cancel</button>
    </p>
  </DialogFrame>
</template>
