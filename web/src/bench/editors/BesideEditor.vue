<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import type { Beside, Document, Field } from '../../api/client'
import { freshKey, freshLabel, putBeside } from '../derivedFields'
import { dated } from '../document'
import FieldFinder from './FieldFinder.vue'
import MadeFoot from './MadeFoot.vue'
import MadePreview from './MadePreview.vue'
import TakeChips from './TakeChips.vue'

/** Edits a field that sets a record beside its group, or beside the one before it. */
const props = defineProps<{
  document: Document
  made: Beside | null
  /** What a new one begins with. */
  start?: { take: Beside['take']; field: string }
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  taken: (key: string) => boolean
  sharing?: boolean
}>()
const emit = defineEmits<{ change: [made: Beside | null]; share: []; remove: []; filter: [key: string] }>()

/** Levels of groups that the view has: what a record stands beside, if nothing else is said. */
const grouped = (props.document.groups ?? []).map(({ field, unit }) => ({ field, unit }))
const ownDate = computed(() => props.fields.find((f) => dated(f) && !f.way.length && !f.kind))
const form = reactive({
  label: props.made?.label ?? '',
  take: props.made?.take ?? props.start?.take ?? ('share' as Beside['take']),
  field: props.made?.field ?? props.start?.field ?? '',
  each: [...(props.made ? (props.made.each ?? []) : grouped)],
  by: props.made?.by?.[0]?.field ?? ownDate.value?.path ?? '',
  desc: props.made?.by?.[0]?.desc ?? false,
  among: props.made?.among ? (props.made.among.all?.length === 0 ? 'all' : 'some') : 'kept',
})
const field = computed(() => props.byPath.get(form.field))
const takes = computed(() => field.value?.beside ?? [])
const take = computed(() => takes.value.find((t) => t.take === form.take))
const words = computed(() => {
  const f = props.byPath.get(form.by)
  if (f && dated(f)) return ['earliest first', 'latest first']
  return f?.numeric ? ['smallest first', 'largest first'] : ['from A to Z', 'from Z to A']
})
const ordered = computed(() => take.value?.ordered ?? form.take === 'position')
const parts = computed(() => [
  { heading: 'Beside its group', takes: takes.value.filter((t) => !t.ordered) },
  { heading: 'Beside the one before', takes: takes.value.filter((t) => t.ordered) },
])
const labelOf = (path: string) => props.byPath.get(path)?.label ?? path
const label = computed(() => {
  const name = field.value?.label.toLowerCase() ?? ''
  return (
    form.label.trim() || freshLabel(props.document, nameOf(take.value?.label ?? '', name), props.made?.key)
  )
})
function nameOf(words: string, of: string): string {
  const text = ordered.value || form.take === 'rank' ? `${words}, ${of}` : `${words} of ${of}`
  return text.charAt(0).toUpperCase() + text.slice(1)
}
const key = computed(() => props.made?.key ?? freshKey(props.document, label.value, props.taken))
const draft = computed<Beside | null>(() => {
  if (ordered.value && !form.by) return null
  const further = props.made?.by?.slice(1) ?? []
  return {
    key: key.value,
    label: label.value,
    take: form.take,
    field: form.take === 'count' || form.take === 'position' ? undefined : form.field,
    each: form.each.length ? form.each.map((e) => ({ ...e })) : undefined,
    by: ordered.value ? [{ field: form.by, desc: form.desc || undefined }, ...further] : undefined,
    among: form.among === 'kept' ? undefined : form.among === 'all' ? { all: [] } : props.made?.among,
  }
})
watch(draft, (d) => emit('change', d), { immediate: true })
const tried = computed(() => draft.value && putBeside(props.document, draft.value))
const finding = ref(false)
function addEach(f: Field) {
  form.each.push({ field: f.apart?.path ?? f.path, unit: dated(f) ? 'month' : undefined })
  finding.value = false
}
const choosable = computed(() => props.fields.filter((f) => f.type !== 'picture' && f.kind !== 'per_total'))
const sortable = computed(() => choosable.value.filter((f) => f.path !== props.made?.key))
</script>

<template>
  <div>
    <div class="mb-2 flex items-baseline gap-3">
      <input
        v-model="form.label"
        class="field heading max-w-80 py-0.5 text-base"
        :placeholder="label"
        aria-label="Name of the field"
        data-name
      />
      <h2 class="quiet">
        of <b class="font-medium text-ink">{{ field?.label ?? 'the records' }}</b>
      </h2>
    </div>
    <div v-for="p in parts" :key="p.heading" class="mt-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h3 v-if="p.takes.length" class="quiet w-full text-xs">{{ p.heading }}</h3>
      <TakeChips :takes="p.takes" :chosen="form.take" @choose="form.take = $event" />
    </div>
    <p class="mt-4 flex flex-wrap items-baseline gap-x-3 gap-y-1" data-each>
      <span class="quiet">{{ form.each.length ? 'of the same' : 'of all records' }}</span>
      <span v-for="(e, i) in form.each" :key="e.field" class="flex items-baseline gap-1">
        <b class="font-medium">{{ e.unit ? `${e.unit.replace('_', ' ')} of ` : '' }}{{ labelOf(e.field) }}</b>
        <button
          class="quiet px-1"
          :aria-label="`Not of the same ${labelOf(e.field)}`"
          @click="form.each.splice(i, 1)"
        >
          ×
        </button>
      </span>
      <button v-if="!finding" class="link" data-same @click="finding = true">
        {{ form.each.length ? 'and the same …' : 'only of the same …' }}
      </button>
    </p>
    <FieldFinder
      v-if="finding"
      class="mt-2"
      :fields="choosable"
      hint="Type to find what they have in common, such as the customer"
      @choose="addEach"
    />
    <p v-if="ordered" class="mt-3 flex items-baseline gap-3">
      <label class="flex items-baseline gap-2"
        ><span class="quiet">in the order of</span>
        <select v-model="form.by" class="field w-auto py-0.5" data-order>
          <option v-for="f in sortable" :key="f.path" :value="f.path">{{ f.label }}</option>
        </select></label
      >
      <button class="link" @click="form.desc = !form.desc">
        {{ form.desc ? words[1] : words[0] }}
      </button>
    </p>
    <div class="mt-3 flex flex-wrap gap-x-5 gap-y-1" role="radiogroup" aria-label="Among which records">
      <label v-if="!sharing" class="flex items-center gap-1.5"
        ><input v-model="form.among" type="radio" value="kept" class="accent-mulberry" /> among the records
        that the other conditions keep</label
      >
      <label class="flex items-center gap-1.5"
        ><input v-model="form.among" type="radio" value="all" class="accent-mulberry" data-all /> among all
        records</label
      >
      <label v-if="made?.among && made.among.all?.length !== 0" class="flex items-center gap-1.5"
        ><input v-model="form.among" type="radio" value="some" class="accent-mulberry" /> among those chosen
        before</label
      >
    </div>
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
