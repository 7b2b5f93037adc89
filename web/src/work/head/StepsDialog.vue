<script setup lang="ts" generic="D extends Content">
import { computed, ref } from 'vue'
import type { Content } from '../../api/client'
import { changesBetween } from '../../api/queries'
import DialogFrame from '../../shell/DialogFrame.vue'
import type { History } from '../useHistory'

/** Every step that led here, in words; a click goes back or forward to it. */
const props = defineProps<{ history: History<D> }>()
const emit = defineEmits<{ close: [] }>()
const words = ref(new Map<string, string>())
const steps = computed(() =>
  props.history.steps.value
    .map((s, i) => ({ ...s, i, words: words.value.get(s.key) ?? (i ? '…' : 'As it was opened') }))
    .reverse(),
)
/** The words of a step are asked for once. */
async function name() {
  const list = props.history.steps.value
  for (const [i, step] of list.entries()) {
    const before = list[i - 1]
    if (!before || words.value.has(step.key)) continue
    const said = await changesBetween(before.document, step.document).then(
      (changes) => changes.join('; '),
      () => 'a step that cannot be worked out any more',
    )
    words.value = new Map(words.value).set(step.key, said || 'nothing that the numbers show')
  }
}
void name()
</script>

<template>
  <DialogFrame title="Steps" :width="520" @close="emit('close')">
    <ol>
      <li v-for="s in steps" :key="s.i" class="border-b border-rule">
        <button
          class="flex w-full items-baseline gap-3 py-1.5 text-left hover:bg-mulberry-wash"
          :class="s.i > history.at.value && 'quiet'"
          :aria-current="s.i === history.at.value ? 'step' : undefined"
          data-step
          @click="history.goTo(s.i)"
        >
          <span class="w-3 shrink-0 text-mulberry">{{ s.i === history.at.value ? '›' : '' }}</span><span>{{
            s.words
          }}</span>
        </button>
      </li>
    </ol>
  </DialogFrame>
</template>
