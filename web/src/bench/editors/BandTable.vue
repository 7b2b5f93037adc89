<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Field, Schemas } from '../../api/client'
import Grip from '../../shell/Grip.vue'
import { useReorder } from '../../shell/useReorder'
import { formatCount } from '../../words'
import { freshRow, type BandForm } from './bands'

/** The bands of a bucket in their order, what bounds each, and how many records lie in it. */
const props = defineProps<{
  field: Field
  /** Bands are lists of values, and have no bounds. */
  listed: boolean
  preview: Schemas['BucketOutputBody'] | undefined
}>()
const form = defineModel<BandForm>({ required: true })
/** The band that values are ticked into. */
const active = defineModel<number>('active', { required: true })

const list = useTemplateRef('list')
const reorder = useReorder(
  list,
  () => form.value.bands.length,
  (from, to) => {
    const [row] = form.value.bands.splice(from, 1)
    if (row) form.value.bands.splice(to, 0, row)
  },
)
const { dragged } = reorder
function add() {
  form.value.bands.push(freshRow(form.value.bands.at(-1)?.below))
}
const countOf = (i: number) => {
  const band = props.preview?.bands[i]
  return band ? formatCount(band.kept) : ''
}
/** Where records lie that are in no band. */
const others = [
  { part: 'rest', what: 'What fits no band', usual: 'Everything else', label: 'Name of the rest' },
  { part: 'blank', what: 'What has no value', usual: 'Blank', label: 'Name of the blanks' },
] as const
/** What a bound of each type looks like. */
const examples: Record<string, string> = {
  whole: '31',
  decimal: '12.5',
  money: '25.00',
  percent: '10',
  date: '2026-01-31',
  datetime: '2026-01-31',
  duration: '1:30',
}
</script>

<template>
  <div class="w-full">
    <table class="w-full border-collapse" data-bands>
      <thead>
        <tr class="quiet border-b border-edge text-left text-xs">
          <th class="w-6 font-normal"><span class="sr-only">Order</span></th>
          <th class="py-1 font-normal">Name</th>
          <template v-if="!listed"
            ><th class="w-28 font-normal">from</th>
            <th class="w-28 font-normal">up to, left out</th></template
          >
          <th v-else class="font-normal">values</th>
          <th class="w-16 text-right font-normal">records</th>
          <th class="w-6"><span class="sr-only">Remove</span></th>
        </tr>
      </thead>
      <tbody ref="list">
        <tr
          v-for="(b, i) in form.bands"
          :key="b.id"
          class="border-b border-rule"
          :class="(dragged === i || (listed && active === i)) && 'bg-mulberry-wash'"
          :data-place="i"
          @click="active = i"
        >
          <td><Grip :reorder="reorder" :index="i" :name="`Band ${i + 1}`" /></td>
          <td class="py-1 pr-2">
            <input
              v-model="b.label"
              class="field py-0.5"
              :placeholder="preview?.bands[i]?.label ?? 'name'"
              :aria-label="`Name of band ${i + 1}`"
            />
          </td>
          <template v-if="!listed">
            <td class="pr-2">
              <input
                v-model="b.from"
                class="field py-0.5"
                :placeholder="i ? examples[field.type] : 'no bound'"
                :aria-label="`Band ${i + 1} from`"
              />
            </td>
            <td class="pr-2">
              <input
                v-model="b.below"
                class="field py-0.5"
                :placeholder="i === form.bands.length - 1 ? 'no bound' : examples[field.type]"
                :aria-label="`Band ${i + 1} up to`"
              />
            </td>
          </template>
          <td v-else class="max-w-52 truncate text-xs" :title="b.values.join(', ')">
            {{ b.values.join(', ') || 'tick values at the right' }}
          </td>
          <td class="text-right" data-count>{{ countOf(i) }}</td>
          <td>
            <button
              class="quiet min-h-6 min-w-6 px-1 text-base"
              :aria-label="`Remove band ${i + 1}`"
              @click.stop="form.bands.splice(i, 1)"
            >
              ×
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <button class="link mt-2" data-add-band @click="add">Add a band</button>
    <dl class="mt-3 grid grid-cols-[1fr_1fr] gap-x-5 text-[13px]">
      <div v-for="o in others" :key="o.part" class="flex items-baseline gap-2">
        <dt class="quiet shrink-0">{{ o.what }}</dt>
        <dd class="flex min-w-0 flex-1 items-baseline gap-2">
          <input
            v-model="form[o.part]"
            class="field min-w-0 flex-1 py-0.5"
            :placeholder="o.usual"
            :aria-label="o.label"
          />{{ preview ? formatCount(preview[o.part].kept) : '' }}
        </dd>
      </div>
    </dl>
  </div>
</template>
