<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Bin, Document, Field } from '../../api/client'
import { queries } from '../../api/queries'
import { formatCount } from '../../words'

/**
 * How a field's values are spread: records kept against all. A drag over bars chooses
 * the stretch they cover; a click, one bar's.
 */
const props = defineProps<{
  document: Document
  field: Field
  caption: string
  /** Says which bars lie in the stretch that is chosen already. */
  chosen?: (bin: Bin) => boolean
}>()
const emit = defineEmits<{ stretch: [first: Bin, last: Bin] }>()

const { data } = useQuery(computed(() => queries.distribution(props.document, props.field.path, 24)))
const bins = computed(() => data.value?.bins ?? [])
const most = computed(() => Math.max(1, ...bins.value.map((b) => b.all)))
/** Places where the drag began and where it is; -1 while there is none. */
const begun = ref(-1)
const reached = ref(-1)
const span = computed(
  () => [Math.min(begun.value, reached.value), Math.max(begun.value, reached.value)] as const,
)
const covered = (i: number, b: Bin) =>
  begun.value >= 0 ? i >= span.value[0] && i <= span.value[1] : !!props.chosen?.(b)
const said = computed(() => {
  const [a, b] = span.value.map((i) => bins.value[i])
  if (begun.value < 0 || !a || !b) return ''
  const kept = bins.value.slice(span.value[0], span.value[1] + 1).reduce((sum, x) => sum + x.kept, 0)
  return `${a === b ? a.label : `${a.label} … ${b.label}`}: ${formatCount(kept)}`
})

function finish() {
  const [a, b] = span.value.map((i) => bins.value[i])
  const dragged = begun.value >= 0
  begun.value = reached.value = -1
  if (dragged && a && b) emit('stretch', a, b)
}
function pick(i: number) {
  begun.value = reached.value = i
  finish()
}
useEventListener(window, 'pointerup', finish)
</script>

<template>
  <figure v-if="bins.length" class="mb-3">
    <figcaption class="quiet truncate border-b border-rule pb-1 text-xs">{{ said || caption }}</figcaption>
    <div class="flex h-20 touch-none items-end border-b border-edge select-none" data-spread>
      <button
        v-for="(b, i) in bins"
        :key="b.label"
        type="button"
        class="relative h-full min-w-0 flex-1 hover:bg-mulberry-wash"
        :class="covered(i, b) && 'bg-mulberry-wash'"
        :aria-label="`${b.label}: ${formatCount(b.kept)} of ${formatCount(b.all)}`"
        :title="`${b.label}: ${formatCount(b.kept)} of ${formatCount(b.all)}`"
        @pointerdown.prevent="begun = reached = i"
        @pointerenter="begun >= 0 && (reached = i)"
        @keydown.enter.stop.prevent="pick(i)"
        @keydown.space.prevent="pick(i)"
      >
        <span
          class="absolute inset-x-[0.5px] bottom-0 bg-bar opacity-50"
          :style="{ height: `${(100 * b.all) / most}%` }"
        ></span>
        <span
          class="absolute inset-x-[0.5px] bottom-0"
          :class="covered(i, b) ? 'bg-mulberry' : 'bg-pine'"
          :style="{ height: `${(100 * b.kept) / most}%` }"
        ></span>
      </button>
    </div>
    <p class="quiet flex justify-between text-xs">
      <span>{{ data?.smallest }}</span><span>{{ data?.largest }}</span>
    </p>
  </figure>
</template>
