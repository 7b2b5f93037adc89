<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Document, RunResult } from '../../api/client'
import { queries } from '../../api/queries'
import { formatCount } from '../../words'
import type { Selection, SelectionActions } from '../useSelection'
import { useBench } from '../bench'
import { headOf, noteOf } from '../ledger/layout'

/** Looks at a group or at one of its figures: how it came about, and the way to its records. */
const props = defineProps<{
  document: Document
  result: RunResult
  selection: Selection
  acts: SelectionActions
}>()
const head = computed(() => props.result.columns[props.selection.head])
const group = computed(() => props.selection.line.group ?? '')
const figure = computed(() => (head.value ? (props.selection.line.cells[props.selection.head] ?? '') : ''))
const explained = computed(() => !!head.value?.fn && !!figure.value)
const { data: explanation } = useQuery(
  computed(() => queries.explain(props.document, group.value, props.selection.head, '', explained.value)),
)
const { data: behind, isPlaceholderData: passing } = useQuery(
  computed(() => queries.behind(props.document, group.value, props.selection.head)),
)
const title = computed(() => behind.value?.labels.join(' · ') || props.selection.line.label)
/** What else stands in this line: in a crosstab, under the same group across. */
const beside = computed(() => {
  const across = head.value?.across?.join(' ')
  return props.result.columns
    .map((c, i) => ({ c, text: props.selection.line.cells[i] ?? '', i }))
    .filter(({ c, text }) => c.fn && text && (!head.value || c.across?.join(' ') === across))
    .map(({ c, text, i }) => ({
      label: c.across ? noteOf(c) : `${headOf(c)}${noteOf(c) ? `, ${noteOf(c)}` : ''}`,
      text,
      here: i === props.selection.head,
    }))
})
/** The other side of a comparison has records of its own, which no condition of this view leads to. */
const ours = computed(() => !head.value?.part)
/** The conditions that lead to the records: until then nothing is done with them. */
const conditions = computed(() => (passing.value ? undefined : behind.value?.conditions))
const { keepGroups } = useBench()
const totalWords = computed(() => {
  const h = head.value
  return h && h.index >= 0 ? `${h.note} ${h.heading.toLowerCase()}` : `number of ${props.result.tally.many}`
})
const narrower = computed(() => (behind.value?.conditions.length ?? 0) > 0)
</script>

<template>
  <div data-figure>
    <h2 class="heading text-base">{{ title }}</h2>
    <p class="quiet mb-3 text-xs">
      <template v-if="head">{{ explanation?.label ?? head.heading }}</template><template v-else
        >a group</template
      >
    </p>
    <p v-if="explained" class="heading mb-2 text-xl" data-figure-value>{{ figure }}</p>
    <p
      v-if="explained && explanation"
      class="mb-3 border-l-2 border-ink pl-2 font-serif text-[13px] leading-5"
      data-why
    >
      {{ explanation.sentence }}
    </p>
    <dl class="mb-4 grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5">
      <dt class="quiet">{{ result.tally.many }}</dt>
      <dd class="text-right">
        {{ formatCount(explanation && explained ? explanation.records : (selection.line.count ?? 0)) }}
      </dd>
      <template v-for="b in beside" :key="b.label"
        ><dt class="quiet truncate" :class="b.here && '!text-ink'" :title="b.label">{{ b.label }}</dt>
        <dd class="text-right" :class="b.here && 'font-medium'">{{ b.text }}</dd></template
      >
    </dl>
    <p v-if="!ours" class="quiet mb-2 text-[13px]">
      Choose the view’s own figure beside it to see its records.
    </p>
    <div class="grid grid-cols-2 gap-1.5">
      <button
        v-if="ours"
        class="button"
        data-see-records
        :disabled="!conditions"
        @click="conditions && acts.seeRecords(conditions)"
      >
        See records
      </button>
      <button
        v-if="head?.fn && selection.head >= 0"
        class="button"
        data-chart-it
        @click="acts.chart(head.index)"
      >
        Chart it
      </button>
      <button
        v-if="ours && narrower"
        class="button"
        data-keep-group
        :disabled="!conditions"
        @click="conditions && acts.keepAll(conditions)"
      >
        Keep only
      </button>
      <button
        v-if="ours && narrower"
        class="button"
        data-drop-group
        :disabled="!conditions"
        @click="conditions && acts.leaveOut(conditions)"
      >
        Leave out
      </button>
      <button
        v-if="ours && head?.fn && document.groups?.length"
        class="button col-span-2"
        data-keep-by-total
        @click="
          keepGroups(
            head.index < 0 ? '' : head.field,
            head.index < 0 ? '' : head.fn,
            selection.line.level || undefined,
          )
        "
      >
        Only groups whose {{ totalWords }} …
      </button>
    </div>
  </div>
</template>
