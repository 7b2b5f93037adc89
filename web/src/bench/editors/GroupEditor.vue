<script setup lang="ts">
import { computed } from 'vue'
import type { Document, Field, Group } from '../../api/client'
import { formatCount } from '../../words'
import { moveGroup, setGroup, type Axis } from '../document'
import type { UnitGroups } from '../units'
import KeepForm from './KeepForm.vue'
import OrderList from './OrderList.vue'

/** Edits one level of groups: the unit of a date, the order of the groups, how many are kept, the level's place. */
const props = defineProps<{
  document: Document
  axis: Axis
  index: number
  fields: ReadonlyMap<string, Field>
  /** How many groups each unit of time would make. */
  units: UnitGroups | null
  /** What the records are called. */
  many: string
  /** By which total groups are to be kept, where that was asked from a figure. */
  keeping?: Group['keep']
}>()
const emit = defineEmits<{ change: [doc: Document]; moved: [index: number]; turned: []; removed: [] }>()

const levels = computed(() => props.document[props.axis] ?? [])
const group = computed<Group | undefined>(() => levels.value[props.index])
const field = computed(() => (group.value ? props.fields.get(group.value.field) : undefined))
const dated = computed(() => field.value?.type === 'date' || field.value?.type === 'datetime')
const groupsOf = (unit: string) => props.units?.units.find((u) => u.unit === unit)?.groups
const offered = computed(
  () =>
    [
      'day',
      'week',
      'month',
      'quarter',
      'year',
      'fiscal_quarter',
      'fiscal_year',
      'weekday',
      ...(field.value?.type === 'datetime' ? (['hour'] as const) : []),
    ] as const,
)
/** Whether all the groups there could be are known. */
const listable = computed(() =>
  dated.value ? !!group.value?.unit : field.value?.type === 'text' || field.value?.type === 'yesno',
)
/** Groups by the linked records themselves, so that two of one name stay two. */
const each = computed(() => !!field.value?.path.endsWith('.each'))
const set = (change: Partial<Group>) =>
  emit('change', setGroup(props.document, props.axis, props.index, change))

/** Values with names can stand in an order of one's own. */
const ownable = computed(() => field.value?.type === 'text')
interface OrderChoice {
  label: string
  order: Group['order']
}
const orders = computed<OrderChoice[]>(() => {
  const out: OrderChoice[] = [
    { label: dated.value ? 'earliest first' : 'in order', order: undefined },
    { label: dated.value ? 'latest first' : 'in reverse order', order: { by: 'label', desc: true } },
    { label: 'most records first', order: { by: 'count', desc: true } },
    ...(ownable.value
      ? [
          {
            label: 'in an order of my own',
            order: {
              by: 'list' as const,
              values: group.value?.order?.values ?? field.value?.samples.slice(0, 1),
            },
          },
        ]
      : []),
  ]
  for (const c of props.document.columns) {
    for (const t of c.totals ?? []) {
      const f = props.fields.get(c.field)
      const words = f?.fns.find((x) => x.fn === t.fn)?.label ?? t.fn
      const name = `${words} of ${c.heading || f?.label || c.field}`
      out.push({
        label: `largest ${name} first`,
        order: { by: 'total', field: c.field, fn: t.fn, desc: true },
      })
      out.push({ label: `smallest ${name} first`, order: { by: 'total', field: c.field, fn: t.fn } })
    }
  }
  return out
})
const same = (a: Group['order'], b: Group['order']) =>
  (a?.by ?? 'label') === (b?.by ?? 'label') &&
  (a?.field ?? '') === (b?.field ?? '') &&
  (a?.fn ?? '') === (b?.fn ?? '') &&
  !!a?.desc === !!b?.desc
const chosen = computed(() => orders.value.findIndex((o) => same(o.order, group.value?.order)))

function move(by: number) {
  emit('change', moveGroup(props.document, props.axis, props.index, props.index + by))
  emit('moved', props.index + by)
}
</script>

<template>
  <div v-if="group && field">
    <h2 class="heading mb-3 text-base">{{ field.label }}</h2>
    <fieldset v-if="dated" class="mb-4">
      <legend class="quiet mb-1">One group for each</legend>
      <div class="flex flex-wrap gap-x-4">
        <button
          v-for="u in offered"
          :key="u"
          class="border-b-2 pb-0.5"
          :aria-pressed="group.unit === u"
          :class="group.unit === u ? 'border-pine font-medium text-pine' : 'quiet border-transparent'"
          @click="set({ unit: u })"
        >
          {{ u.replace('_', ' ')
          }}<template v-if="groupsOf(u) !== undefined"
            >&nbsp;<span class="quiet text-xs font-normal">{{ formatCount(groupsOf(u)!) }}</span></template
          >
        </button>
      </div>
    </fieldset>
    <label class="block">
      <span class="quiet mb-1 block">Order of the groups</span>
      <select
        class="field"
        :value="chosen"
        @change="set({ order: orders[Number(($event.target as HTMLSelectElement).value)]?.order })"
      >
        <option v-for="(o, i) in orders" :key="o.label" :value="i">{{ o.label }}</option>
      </select>
    </label>
    <OrderList
      v-if="group.order?.by === 'list'"
      :field="field"
      :document="document"
      :values="group.order.values ?? []"
      @change="set({ order: { by: 'list', values: $event } })"
    />
    <div class="mt-3 flex flex-wrap items-baseline gap-x-6 gap-y-2">
      <label class="flex items-baseline gap-2">
        <span class="quiet">Keep the first</span>
        <input
          class="field w-20 py-0.5"
          type="number"
          min="1"
          max="100000"
          placeholder="all"
          :value="group.top || ''"
          data-top
          @change="set({ top: Number(($event.target as HTMLInputElement).value) || undefined })"
        />
        <span class="quiet">and put the rest into one</span>
      </label>
      <label v-if="listable" class="flex items-baseline gap-2">
        <input
          type="checkbox"
          :checked="!!group.empty"
          data-without
          @change="set({ empty: ($event.target as HTMLInputElement).checked || undefined })"
        />
        <span class="quiet">Show those without records, too</span>
      </label>
    </div>
    <KeepForm
      :document="document"
      :fields="fields"
      :keep="group.keep ?? keeping"
      :many="many"
      @change="set({ keep: $event })"
    />
    <label v-if="field.apart" class="mt-3 flex items-baseline gap-2">
      <input type="checkbox" :checked="each" data-each @change="set({ field: field.apart.path })" />
      <span class="quiet">Two of one name stay two, told apart by what they are known by</span>
    </label>
    <p class="mt-4 flex gap-5 border-t border-rule pt-3">
      <button class="link" data-turn @click="emit('turned')">
        {{ axis === 'groups' ? 'Turn across the top' : 'Turn down the side' }}
      </button>
      <button class="link" :disabled="index === 0" @click="move(-1)">Move outwards</button>
      <button class="link" :disabled="index >= levels.length - 1" @click="move(1)">Move inwards</button>
      <button class="link ml-auto" @click="emit('removed')">Remove</button>
    </p>
  </div>
</template>
