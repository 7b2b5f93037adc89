<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, toRef } from 'vue'
import type { Beside, Field, RunResult } from '../../api/client'
import { queries } from '../../api/queries'
import { formatCount } from '../../words'
import { useKeyHints } from '../../shell/commands'
import { useBench } from '../bench'
import { useValues } from '../useValues'
import Spread from './Spread.vue'
import TotalOptions from './TotalOptions.vue'

/** Looks at the selected column: what it holds under the filter, and what can be done with it. */
const props = defineProps<{ result: RunResult; field: Field }>()
const { history, live, fields, selection, editor, keepGroups } = useBench()
const document_ = history.shown
const index = selection.column
const hint = useKeyHints()

const listed = 7
const { data } = useValues(toRef(props, 'field'), live, listed)
const totals = computed(() =>
  props.result.columns
    .map((c, i) => ({ ...c, figure: props.result.grand.cells[i] ?? '' }))
    .filter((c) => c.index === index.value && c.fn && !c.across?.length),
)
type Show = 'share_all' | 'share_group' | 'running' | 'rank' | 'difference' | 'change'
const shows: { show: Show; label: string }[] = [
  { show: 'share_all', label: 'share of all' },
  { show: 'share_group', label: 'share of group' },
  { show: 'running', label: 'running' },
  { show: 'rank', label: 'rank' },
  { show: 'difference', label: 'difference' },
  { show: 'change', label: 'change' },
]
/** The first total's place among the columns of the ledger: what is explained. */
const explained = computed(() =>
  props.result.columns.findIndex((c) => c.index === index.value && c.fn && !c.part),
)
const { data: explanation } = useQuery(
  computed(() => queries.explain(live.value, '', explained.value, props.field.path, explained.value >= 0)),
)
const column = computed(() => document_.value.columns[index.value])
const most = computed(() => Math.max(1, ...(data.value?.values ?? []).map((v) => v.kept)))
const has = (fn: string) => !!column.value?.totals?.some((t) => t.fn === fn && !t.show)
/** What each record's value can be set beside. */
const besides = computed(() =>
  [
    { heading: 'Each beside its group', takes: props.field.beside.filter((t) => !t.ordered) },
    { heading: 'Each beside the one before', takes: props.field.beside.filter((t) => t.ordered) },
  ].filter((p) => p.takes.length),
)
function setBeside(take: string, anchor: HTMLElement) {
  void editor.openBeside(null, anchor, { take: take as Beside['take'], field: props.field.path })
}
const listable = computed(() => props.field.ops.some((o) => o.op === 'one_of'))
</script>

<template>
  <div>
    <h2 class="heading text-base">{{ column?.heading || field.label }}</h2>
    <p class="quiet mb-3 text-xs">
      <template v-if="field.way.length">in {{ field.way.join(' › ') }} · </template>{{ field.typeName
      }}<template v-if="data">
        · {{ formatCount(data.distinct) }} different · {{ formatCount(data.blankKept) }} blank</template
      >
    </p>
    <p v-if="field.meaning" class="mb-3 font-serif">{{ field.meaning }}</p>
    <dl v-if="totals.length" class="mb-3 grid grid-cols-[1fr_auto] gap-y-0.5">
      <template v-for="(t, i) in totals" :key="i"
        ><dt class="quiet">{{ t.side || t.note }}</dt>
        <dd class="text-right font-medium">{{ t.figure }}</dd></template
      >
    </dl>
    <p
      v-if="explanation && explained >= 0"
      class="mb-3 border-l-2 border-ink pl-2 font-serif text-[13px] leading-5"
      data-explained
    >
      {{ explanation.sentence }}
    </p>
    <p v-if="explanation?.mix && explained >= 0" class="mb-3">
      <button class="link" data-split @click="selection.group()">
        Split by {{ field.label.toLowerCase() }}</button
      >{{ ' ' }}
      <span class="quiet">to see each price</span>
    </p>
    <Spread
      v-if="field.type !== 'text' && field.type !== 'yesno' && field.type !== 'picture'"
      :document="live"
      :field="field"
      caption="Spread, kept of all; drag to keep a stretch"
      @stretch="(a, b) => selection.keepRange(a.from, b.below)"
    />
    <p
      v-if="data && data.distinct > 1 && most === 1 && result.tally.kept > 1"
      class="quiet mb-3 border-y border-rule py-2"
    >
      No two records kept share a value.
    </p>
    <template v-else-if="data?.values.length">
      <h3 class="quiet border-b border-rule pb-1 text-xs">Commonest values kept</h3>
      <ul class="mb-3">
        <li
          v-for="v in data.values"
          :key="v.value"
          class="group relative flex items-baseline gap-2 border-b border-rule py-1"
        >
          <span
            class="absolute inset-y-1 left-0 -z-0 bg-bar opacity-50"
            :style="{ width: `${(100 * v.kept) / most}%` }"
          ></span>
          <span class="relative min-w-0 flex-1 truncate" :title="v.label">{{ v.label }}</span>
          <span
            v-if="listable"
            class="relative hidden gap-2 text-xs group-focus-within:flex group-hover:flex"
          >
            <button
              class="link"
              :aria-label="`Keep only ${v.label}`"
              @click="selection.keepValue(field, v.value)"
            >
              keep
            </button>
            <button
              class="link"
              :aria-label="`Leave out ${v.label}`"
              @click="selection.leaveValueOut(field, v.value)"
            >
              leave out
            </button>
          </span>
          <span class="relative">{{ formatCount(v.kept) }}</span>
        </li>
      </ul>
    </template>
    <div class="grid grid-cols-2 gap-1.5">
      <button
        class="button !justify-between"
        @click="editor.openNew(field, $event.currentTarget as HTMLElement)"
      >
        Keep only …
      </button>
      <button v-if="field.type !== 'picture'" class="button !justify-between" @click="selection.group()">
        Group by
      </button>
      <button v-if="field.type !== 'picture'" class="button !justify-between" @click="selection.sortBy()">
        Sort <kbd v-if="hint('sort')" class="key">{{ hint('sort') }}</kbd>
      </button>
      <button class="button !justify-between" @click="selection.takeOut()">Take out</button>
      <button class="button" :disabled="index === 0" @click="selection.move(index, index - 1)">← Move</button>
      <button
        class="button"
        :disabled="index >= document_.columns.length - 1"
        @click="selection.move(index, index + 1)"
      >
        Move →
      </button>
    </div>
    <h3 class="quiet mt-4 mb-1 text-xs">
      Total as <kbd v-if="hint('total')" class="key">{{ hint('total') }}</kbd>
    </h3>
    <div class="flex flex-wrap gap-x-3 gap-y-1" data-totals>
      <button
        v-for="f in field.fns"
        :key="f.fn"
        class="border-b-2 pb-0.5"
        :aria-pressed="has(f.fn)"
        :class="has(f.fn) ? 'border-mulberry font-medium text-mulberry' : 'quiet border-transparent'"
        @click="selection.total(f.fn)"
      >
        {{ f.label }}
      </button>
    </div>
    <p v-if="document_.groups?.length && totals[0]?.fn" class="mt-2">
      <button class="link" data-keep-by-total @click="keepGroups(field.path, totals[0].fn)">
        Only groups whose {{ totals[0].note }} …
      </button>
    </p>
    <template v-for="p in besides" :key="p.heading">
      <h3 class="quiet mt-4 mb-1 text-xs">{{ p.heading }}</h3>
      <div class="flex flex-wrap gap-x-3 gap-y-1" data-beside>
        <button
          v-for="t in p.takes"
          :key="t.take"
          class="link"
          :data-beside-take="t.take"
          @click="setBeside(t.take, $event.currentTarget as HTMLElement)"
        >
          {{ t.label }}
        </button>
      </div>
    </template>
    <TotalOptions
      :key="index"
      class="mt-2"
      :document="document_"
      :index="index"
      :field="field"
      :fields="fields"
      :levels="result.levels.map((l) => l.label)"
      @change="history.step($event)"
    />
    <template v-if="column?.totals?.some((t) => !t.show) && document_.groups?.length">
      <h3 class="quiet mt-4 mb-1 text-xs">Beside it</h3>
      <div class="flex flex-wrap gap-x-3 gap-y-1" data-shows>
        <button
          v-for="s in shows"
          :key="s.show"
          class="border-b-2 pb-0.5"
          :aria-pressed="!!column.totals.some((t) => t.show === s.show)"
          :class="
            column.totals.some((t) => t.show === s.show)
              ? 'border-mulberry font-medium text-mulberry'
              : 'quiet border-transparent'
          "
          @click="selection.show(s.show)"
        >
          {{ s.label }}
        </button>
      </div>
    </template>
  </div>
</template>
