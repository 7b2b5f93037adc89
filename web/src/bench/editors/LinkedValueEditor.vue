<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import type { Document, LinkBy, LinkedValue } from '../../api/client'
import { freshKey, freshLabel, loneLinked } from '../derivedFields'
import { dated } from '../document'
import { useFields } from '../useFields'
import { joined, nameOfTaken, partsOf } from './linked'
import LinkedWhere from './LinkedWhere.vue'
import MadeFoot from './MadeFoot.vue'
import MadePreview from './MadePreview.vue'
import TakeChips from './TakeChips.vue'

/** Edits a value of the records that link here: what is taken, of which of them. */
const props = defineProps<{
  document: Document
  made: LinkedValue | null
  source: LinkBy
  taken: (key: string) => boolean
  sharing?: boolean
}>()
const emit = defineEmits<{
  change: [made: LinkedValue | null, fn?: string]
  share: []
  remove: []
  filter: [key: string]
}>()
const { fields, byPath } = useFields(computed(() => props.source.records))
const form = reactive({
  label: props.made?.label ?? '',
  take: props.made?.take ?? ('count' as LinkedValue['take']),
  field: props.made?.field ?? '',
  date: props.made?.date ?? '',
  where: [...partsOf(props.made?.where)],
})
const whole: { take: LinkedValue['take']; label: string }[] = [
  { take: 'count', label: 'how many' },
  { take: 'any', label: 'whether any' },
]
const ofField = computed(() => form.take !== 'count' && form.take !== 'any')
const byDate = computed(() => form.take === 'latest' || form.take === 'earliest')
const field = computed(() => byPath.value.get(form.field))
const takeable = computed(() => fields.value.filter((f) => f.takes.length && !f.technical))
const dates = computed(() => fields.value.filter((f) => dated(f) && !f.way.length && f.kind !== 'per_total'))
/** Chooses the field, and what can be taken of it if that cannot stay. */
function chooseField(path: string) {
  form.field = path
  const takes = byPath.value.get(path)?.takes ?? []
  if (!takes.some((t) => t.take === form.take)) form.take = takes[0]?.take ?? 'count'
}
watch(
  [byDate, dates],
  () => {
    if (byDate.value && !form.date) form.date = dates.value[0]?.path ?? ''
  },
  { immediate: true },
)
const label = computed(
  () =>
    form.label.trim() ||
    freshLabel(props.document, nameOfTaken(form.take, field.value, props.source.many), props.made?.key),
)
const key = computed(() => props.made?.key ?? freshKey(props.document, label.value, props.taken))
const draft = computed<LinkedValue | null>(() => {
  if (ofField.value && !form.field) return null
  if (byDate.value && !form.date) return null
  return {
    key: key.value,
    label: label.value,
    records: props.source.records,
    by: props.source.by,
    where: joined(form.where),
    take: form.take,
    field: ofField.value ? form.field : undefined,
    date: byDate.value ? form.date : undefined,
  }
})
/** The records with nothing but the value: what else the view makes changes nothing of it. */
const tried = computed(() => draft.value && loneLinked(props.document.records, draft.value))
const adds = computed(() => ['count', 'sum', 'distinct'].includes(form.take))
watch(draft, (d) => emit('change', d, adds.value ? 'sum' : undefined), { immediate: true })
</script>

<template>
  <div>
    <div class="mb-3 flex items-baseline gap-3">
      <input
        v-model="form.label"
        class="field heading max-w-72 py-0.5 text-base"
        :placeholder="label"
        aria-label="Name of the value"
        data-name
      />
      <h2 class="quiet">
        of the <b class="font-medium text-ink">{{ source.many }}</b> that link here<template
          v-if="source.by.includes('.')"
        >
          by {{ source.way }}</template
        >
      </h2>
    </div>
    <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <TakeChips :takes="whole" :chosen="form.take" @choose="form.take = $event" />
      <span class="quiet">or their</span>
      <select
        class="field w-auto py-0.5"
        aria-label="Field that is taken"
        data-field
        :value="ofField ? form.field : ''"
        @change="chooseField(($event.target as HTMLSelectElement).value)"
      >
        <option value="" disabled>a field …</option>
        <option v-for="f in takeable" :key="f.path" :value="f.path">
          {{ f.label }}{{ f.way.length > 1 ? ` (${f.way.join(' › ')})` : '' }}
        </option>
      </select>
    </div>
    <div v-if="ofField && field" class="mt-3 flex flex-wrap items-baseline gap-x-4 gap-y-1" data-takes>
      <TakeChips :takes="field.takes" :chosen="form.take" @choose="form.take = $event" />
      <label v-if="byDate" class="flex items-baseline gap-2"
        ><span class="quiet">by</span>
        <select v-model="form.date" class="field w-auto py-0.5" data-date>
          <option v-for="f in dates" :key="f.path" :value="f.path">{{ f.label }}</option>
        </select></label
      >
    </div>
    <LinkedWhere v-model="form.where" :source="source" :fields="fields" />
    <MadePreview v-if="tried" :view="tried" :made="key" />
    <MadeFoot
      v-if="!sharing"
      filters
      :right="!!draft"
      :there="!!props.made"
      @filter="emit('filter', key)"
      @share="emit('share')"
      @remove="emit('remove')"
    />
  </div>
</template>
