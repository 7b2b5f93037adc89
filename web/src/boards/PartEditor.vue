<script setup lang="ts">
import { computed } from 'vue'
import type { BoardPart, Fn } from '../api/client'
import Popover from '../shell/Popover.vue'
import { useBoard } from './board'
import { changePart, columns, removePart, resizePart, showOf, shows, sizeOf, type Show } from './document'

/** What a part shows of its view and how; the sheet follows while it is open. */
const props = defineProps<{ part: BoardPart; anchor: HTMLElement; fresh: boolean }>()
const emit = defineEmits<{ done: [] }>()
const board = useBoard()
const { history, views } = board
const view = computed(() => views.value.get(props.part.view ?? ''))
const size = computed(() => sizeOf(props.part))
const isText = computed(() => props.part.show === 'text')

const change = (to: Partial<BoardPart>) => history.tryOut(changePart(history.shown.value, props.part.key, to))
const show = (to: Show) => history.tryOut(showOf(history.shown.value, props.part.key, to))
const typed = (event: Event) => (event.target as HTMLInputElement).value
const whole = (event: Event) => Number((event.target as HTMLInputElement).value) || undefined
function resize(wide: number, high: number) {
  history.tryOut(resizePart(history.shown.value, props.part.key, wide, high))
}
/** Totals that can stand here: for a chart, those with a length. */
const totals = computed(() => {
  const of = (view.value?.totals ?? []).filter((t) => props.part.show !== 'chart' || t.number)
  return [
    { name: '', label: 'the first total' },
    ...of.map((t) => ({ name: `${t.field} ${t.fn}`, label: t.label })),
    { name: '#', label: 'how many records' },
  ]
})
const total = computed(() =>
  props.part.count ? '#' : props.part.field ? `${props.part.field} ${props.part.fn ?? ''}` : '',
)
function choose(name: string) {
  const [field, fn] = name.split(' ')
  if (name === '#') change({ count: true, field: undefined, fn: undefined })
  else change({ count: undefined, field: field || undefined, fn: (fn || undefined) as Fn | undefined })
}
function keep() {
  history.step(history.shown.value)
  emit('done')
}
function revert() {
  history.revert()
  if (props.fresh) history.undo()
  emit('done')
}
function takeOff() {
  history.revert()
  history.step(removePart(history.kept.value, props.part.key))
  emit('done')
}
</script>

<template>
  <Popover
    :anchor="anchor"
    label="A part of the board"
    tone="mulberry"
    :width="480"
    :tall="420"
    @keep="keep"
    @revert="revert"
  >
    <template v-if="isText">
      <label class="mb-3 block"
        ><span class="mb-1 block font-medium">Words</span
        ><textarea
          class="field font-mono text-[13px]"
          rows="8"
          maxlength="20000"
          :value="part.text"
          data-first
          data-part-text
          @input="change({ text: typed($event) })"
        ></textarea
        ><span class="quiet text-xs"
          ># heading, **strong**, *leaning*, - list, [words](address); as Markdown has it</span
        ></label
      >
    </template>
    <template v-else>
      <p class="mb-2">
        Of
        <b class="font-medium">{{ view?.name || 'a view that is not there' }}</b> show
      </p>
      <div class="mb-3 flex flex-wrap gap-x-4 gap-y-1" role="radiogroup" aria-label="What is shown">
        <label v-for="s in shows" :key="s.show" class="inline-flex items-baseline gap-1.5" :title="s.about"
          ><input
            type="radio"
            name="show"
            class="accent-mulberry"
            :value="s.show"
            :checked="part.show === s.show"
            :disabled="s.show === 'groups' && !!view && !view.levels"
            @change="show(s.show)"
          />{{ s.label }}</label
        >
      </div>
      <div class="grid grid-cols-[7rem_1fr] items-baseline gap-x-3 gap-y-2">
        <label for="part-heading" class="quiet">Heading</label>
        <input
          id="part-heading"
          class="field py-0.5"
          maxlength="120"
          :value="part.heading ?? ''"
          :placeholder="view?.name"
          data-part-heading
          @input="change({ heading: typed($event) || undefined })"
        />
        <template v-if="part.show === 'figure' || part.show === 'chart'">
          <label for="part-total" class="quiet">Total</label>
          <select
            id="part-total"
            class="field py-0.5"
            :value="total"
            data-part-total
            @change="choose(typed($event))"
          >
            <option v-for="t in totals" :key="t.name" :value="t.name">{{ t.label }}</option>
          </select>
        </template>
        <template v-else>
          <label for="part-lines" class="quiet">Lines</label>
          <span class="flex items-baseline gap-4"
            ><input
              id="part-lines"
              class="field !w-20 py-0.5"
              type="number"
              min="1"
              max="100"
              :value="part.lines ?? 20"
              @change="change({ lines: whole($event) })" />
            <label
              v-if="part.show === 'groups' && (view?.levels ?? 0) > 1"
              class="inline-flex items-baseline gap-2"
              ><span class="quiet">levels shown</span
              ><input
                class="field !w-16 py-0.5"
                type="number"
                min="1"
                :max="view?.levels"
                :value="(part.depth ?? 0) + 1"
                @change="change({ depth: (whole($event) ?? 1) - 1 || undefined })" /></label
          ></span>
        </template>
      </div>
    </template>
    <div class="mt-2 grid grid-cols-[7rem_1fr] items-baseline gap-x-3 gap-y-2">
      <span class="quiet">Size</span>
      <span class="flex flex-wrap items-baseline gap-x-3 gap-y-1"
        ><label class="inline-flex items-baseline gap-1.5"
          ><input
            class="field !w-16 py-0.5"
            type="number"
            min="2"
            :max="columns"
            :value="size.wide"
            data-part-wide
            @change="resize(whole($event) ?? size.wide, size.high)"
          />
          of {{ columns }} columns</label
        ><label class="inline-flex items-baseline gap-1.5"
          ><input
            class="field !w-16 py-0.5"
            type="number"
            min="2"
            max="30"
            :value="size.high"
            @change="resize(size.wide, whole($event) ?? size.high)"
          />
          rows</label
        ></span
      >
      <span></span>
      <label class="inline-flex items-baseline gap-1.5"
        ><input
          type="checkbox"
          class="accent-mulberry"
          :checked="!!part.page"
          @change="change({ page: !part.page || undefined })"
        />
        begins a page, on paper and on the wall</label
      >
    </div>
    <template #foot>
      <button class="link" data-take-off @click="takeOff">Take it off the board</button>
    </template>
  </Popover>
</template>
