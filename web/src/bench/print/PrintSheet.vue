<script setup lang="ts">
import { computed } from 'vue'
import type { Line, RunResult } from '../../api/client'
import { formatCount } from '../../words'
import { isAnswered, type Question } from '../ask/answers'

/** What goes on paper: what the view says, what was answered this time apart from it, the lines that are here, and how they came about. */
const props = defineProps<{
  title: string
  about: string
  result: RunResult
  lines: readonly Line[]
  questions: readonly Question[]
}>()
const levels = computed(() => props.result.levels.length)
const answers = computed(() =>
  props.questions.map((q) => ({
    label: q.condition.ask?.label ?? '',
    said: isAnswered(q.condition)
      ? (props.result.brief.find((p) => p.path === q.path)?.text ?? '')
      : 'no answer: filters nothing',
  })),
)
const right = (line: Line, i: number) => {
  const c = props.result.columns[i]
  return !!c && (line.level > levels.value ? c.numeric : c.figures || c.numeric)
}
/** Columns that have something to show in these lines: of closed groups only those with totals. */
const columns = computed(() =>
  props.result.columns
    .map((c, at) => ({ c, at }))
    .filter(({ at }) => [...props.lines, props.result.grand].some((l) => l.cells[at])),
)
const asOf = computed(() =>
  new Date(props.result.tally.asOf).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' }),
)
</script>

<template>
  <article class="hidden p-2 print:block" data-print>
    <h1 class="heading text-xl">{{ title }}</h1>
    <p v-if="about">{{ about }}</p>
    <p class="my-2 font-serif text-base">{{ result.sentence }}</p>
    <dl v-if="answers.length" class="my-2 border-l-4 border-mulberry pl-3" data-print-answers>
      <div v-for="a in answers" :key="a.label" class="flex gap-2">
        <dt class="quiet">{{ a.label }}</dt>
        <dd class="font-medium">{{ a.said }}</dd>
      </div>
    </dl>
    <p class="quiet mb-3 text-xs">
      {{ formatCount(result.tally.kept) }} of {{ formatCount(result.tally.all) }}
      {{ result.tally.fewer ? 'that the reader may see' : '' }} are kept, as of {{ asOf }}.
      {{ result.tally.problems.map((p) => `${p.text}.`).join(' ') }}
    </p>
    <table class="w-full border-collapse text-[11px]">
      <thead>
        <tr class="border-b border-ink text-left align-bottom">
          <th v-if="levels" class="py-1 pr-2 font-medium">
            {{ result.levels.map((l) => l.label).join(' / ') }}
          </th>
          <th
            v-for="{ c, at } in columns"
            :key="at"
            class="py-1 pl-2 font-medium"
            :class="(c.numeric || c.figures) && 'text-right'"
          >
            <span v-if="c.across?.length || c.side" class="block">{{
              [...(c.across ?? []), c.side ?? ''].filter(Boolean).join(', ')
            }}</span>{{ c.heading }}<span v-if="c.note" class="quiet block text-[10px]">{{ c.note }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(line, row) in lines"
          :key="row"
          class="border-b border-rule"
          :class="line.level <= levels && 'font-medium'"
        >
          <td
            v-if="levels"
            class="py-0.5 pr-2"
            :style="{ paddingLeft: `${Math.max(0, line.level - 1) * 12}px` }"
          >
            {{ line.label
            }}<span v-if="line.count !== undefined && line.group" class="quiet ml-1.5 text-[10px]">{{
              formatCount(line.count)
            }}</span>
          </td>
          <td v-for="{ at } in columns" :key="at" class="pl-2" :class="right(line, at) && 'text-right'">
            {{ line.cells[at] }}
          </td>
        </tr>
        <tr class="border-t-2 border-ink font-semibold">
          <td v-if="levels" class="py-1">
            All {{ result.tally.many }}
            <span class="quiet text-[10px]">{{ formatCount(result.tally.kept) }}</span>
          </td>
          <td v-for="{ at } in columns" :key="at" class="py-1 pl-2 text-right">
            {{ result.grand.cells[at] }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="lines.length < result.total" class="quiet mt-2 text-xs" data-print-part>
      These are the first {{ formatCount(lines.length) }} of {{ formatCount(result.total) }} lines.
    </p>
  </article>
</template>
