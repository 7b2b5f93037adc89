<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Line, Schemas } from '../../api/client'
import type { Answers } from '../../bench/ask/answers'
import { formatCount } from '../../words'
import { viewWith } from '../answers'

/** The first lines of a view's groups, with the total of all, or its first records. */
const props = defineProps<{
  name: string
  said: Schemas['PartAnswer']
  view: string
  answers: Answers
  /** Its lines lead to the view. */
  open: boolean
}>()
const lines = computed(() => props.said.lines ?? [])
const grouped = computed(() => lines.value.some((l) => l.group))
const box = useTemplateRef('box')
const { width } = useElementSize(box)
/** Room that a column needs to be read, and the names of groups, in pixels. */
const room = { column: 92, name: 190 }
/** The first columns that there is room for, one at least. Nothing is drawn before the room is known. */
const heads = computed(() => {
  const all = props.said.heads ?? []
  const fit = Math.floor((width.value - (grouped.value ? room.name : 0)) / room.column)
  return all.slice(0, Math.max(1, fit))
})
const left = computed(() => (props.said.heads?.length ?? 0) - heads.value.length)
const headOf = (h: (typeof heads.value)[number]) =>
  [h.heading, grouped.value && h.note, h.side, ...(h.across ?? [])].filter(Boolean).join(', ')
const right = (i: number) => !!(grouped.value ? heads.value[i]?.figures : heads.value[i]?.numeric)
const to = (l: Line) => viewWith(props.view, props.answers, l.group)
</script>

<template>
  <div ref="box" class="flex size-full flex-col">
    <div class="min-h-0 flex-1 overflow-auto" tabindex="0" role="group" :aria-label="`Lines of ${name}`">
      <table v-if="width" class="w-full text-[13px]" data-lines>
        <thead class="sticky top-0 bg-sheet text-mute">
          <tr class="border-b border-edge">
            <th v-if="grouped" class="px-3 py-1 text-left font-medium"><span class="sr-only">Group</span></th>
            <th v-if="grouped" class="px-2 py-1 text-right font-medium">
              {{ '' }}<span class="sr-only">Records</span>
            </th>
            <th
              v-for="(h, i) in heads"
              :key="i"
              class="min-w-[92px] px-2 py-1 font-medium last:pr-3"
              :class="[right(i) ? 'text-right' : 'text-left', !grouped && !i && 'pl-3']"
            >
              {{ headOf(h) }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(l, n) in lines"
            :key="n"
            class="border-b border-rule"
            :class="grouped && !l.group && 'font-semibold'"
            :data-group="l.group"
          >
            <th
              v-if="grouped"
              scope="row"
              class="w-full max-w-0 min-w-24 truncate px-3 py-1 text-left font-normal"
              :style="{ paddingLeft: `${12 + 14 * Math.max(0, l.level - 1)}px` }"
            >
              <RouterLink
                v-if="l.group && open"
                class="hover:underline"
                :class="l.level === 1 ? 'font-serif' : ''"
                :to="to(l)"
                >{{ l.label || 'blank' }}</RouterLink><span
                v-else-if="l.group"
                :class="l.level === 1 ? 'font-serif' : ''"
                >{{ l.label || 'blank' }}</span
              ><span v-else class="font-semibold">All</span>
            </th>
            <td v-if="grouped" class="quiet px-2 py-1 text-right">{{ formatCount(l.count ?? 0) }}</td>
            <td
              v-for="(c, i) in l.cells.slice(0, heads.length)"
              :key="i"
              class="max-w-64 truncate px-2 py-1 last:pr-3"
              :class="[right(i) && 'text-right', !grouped && !i && 'pl-3']"
            >
              <img v-if="c.startsWith('data:image/')" :src="c" alt="" class="h-6" /><template v-else>{{
                c
              }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="said.more || left" class="quiet px-3 py-1 text-xs" data-more>
      {{
        [
          said.more && `${formatCount(said.more)} more ${said.more === 1 ? 'line' : 'lines'}`,
          left && `${left} more ${left === 1 ? 'column' : 'columns'}`,
        ]
          .filter(Boolean)
          .join(' and ')
      }}
      in
      <RouterLink v-if="open" class="link" :to="viewWith(view, answers)">the view</RouterLink
      ><template v-else>the view</template>
    </p>
  </div>
</template>
