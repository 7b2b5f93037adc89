<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, unwrap, type Bucket, type Document, type Field, type LinkedOffer } from '../../api/client'
import { wordsOf } from '../../api/problem'
import { freshKey, freshLabel, putBucket } from '../derivedFields'
import { dated } from '../document'
import { bandOf, freshRow, rowOf, type BandForm } from './bands'
import BandStrip from './BandStrip.vue'
import BandTable from './BandTable.vue'
import BandValues from './BandValues.vue'
import FieldFinder from './FieldFinder.vue'
import MadeFoot from './MadeFoot.vue'
import { useBucketPreview } from './usePreview'

/** Edits one bucket: its bands in their order, what lies in each, and where they do not meet. */
const props = defineProps<{
  document: Document
  made: Bucket | null
  /** The field to begin with. */
  of?: Field
  fields: readonly Field[]
  taken: (key: string) => boolean
  sharing?: boolean
  offers?: readonly LinkedOffer[]
}>()
const emit = defineEmits<{
  change: [made: Bucket | null]
  share: []
  remove: []
  age: [field: Field]
  offer: [offer: LinkedOffer]
}>()

const form = ref<BandForm>({
  label: props.made?.label ?? '',
  of: props.made?.of ?? props.of?.path ?? '',
  blank: props.made?.blank ?? '',
  rest: props.made?.rest ?? '',
  bands: (props.made?.bands ?? []).map(rowOf),
})
const choosable = computed(() =>
  props.fields.filter((f) => f.type !== 'picture' && f.type !== 'yesno' && f.kind !== 'per_total'),
)
const field = computed(() => props.fields.find((f) => f.path === form.value.of))
const listed = computed(() => field.value?.type === 'text')
const label = computed(
  () =>
    form.value.label.trim() ||
    freshLabel(props.document, field.value ? `${field.value.label} bands` : 'Bands', props.made?.key),
)
const key = computed(() => props.made?.key ?? freshKey(props.document, label.value, props.taken))
const draft = computed<Bucket | null>(() => {
  const { of, bands, blank, rest } = form.value
  if (!of || !bands.length) return null
  return {
    key: key.value,
    label: label.value,
    of,
    blank: blank.trim() || undefined,
    rest: rest.trim() || undefined,
    bands: bands.map((row) => bandOf(row, listed.value)),
  }
})
const tried = computed(
  () => draft.value && { view: putBucket(props.document, draft.value), key: draft.value.key },
)
const { preview, error, settled } = useBucketPreview(tried)
const right = computed(() => !!preview.value && !preview.value.faults.length && draft.value !== null)
watch(
  [settled, right, draft],
  () => {
    if (settled.value || !draft.value) emit('change', right.value ? draft.value : null)
  },
  { immediate: true },
)

const parts = ref(5)
const trouble = ref('')
type Proposal = 'round' | 'widths' | 'counts' | 'ageing'
async function propose(kind: Proposal) {
  trouble.value = ''
  const field = form.value.of
  try {
    const got = await unwrap(
      api.POST('/api/split', { body: { view: props.document, field, kind, parts: parts.value } }),
    )
    // Of another field by now, what comes late is of no use.
    if (form.value.of === field) form.value.bands = got.bands.map(rowOf)
  } catch (cause) {
    if (form.value.of === field) trouble.value = wordsOf(cause)
  }
}
function choose(f: Field) {
  form.value.of = f.path
  form.value.bands = []
  // An age that was calculated for this goes by the usual days; all else by round bounds.
  if (f.type !== 'text') void propose(f === props.of && f.kind === 'calculated' ? 'ageing' : 'round')
}
if (!props.made && props.of) choose(props.of)
const active = ref(0)
function toggle(value: string) {
  const { bands } = form.value
  const had = bands.findIndex((b) => b.values.includes(value))
  if (had >= 0) bands[had]!.values = bands[had]!.values.filter((v) => v !== value)
  if (had === active.value) return
  if (!bands.length) bands.push(freshRow())
  bands[Math.min(active.value, bands.length - 1)]!.values.push(value)
}
/** Bounds that can be started with, the likeliest first. */
const proposals = computed<{ kind: Proposal; words: string }[]>(() => {
  const f = field.value
  if (!f || listed.value) return []
  const aged = f.type === 'whole' || f.type === 'duration'
  return [
    { kind: 'round', words: dated(f) ? 'whole days, months or years' : 'round bounds' },
    ...(dated(f) ? [] : [{ kind: 'widths' as const, words: 'equal widths' }]),
    { kind: 'counts', words: 'equal counts' },
    ...(aged ? [{ kind: 'ageing' as const, words: 'ages 7 / 14 / 30 / 60 / 90 / 180 / 365 days' }] : []),
  ]
})
/** The band that a fault lies in, in words. */
const placeOf = (fault: number) => {
  const at = preview.value?.faulty[fault] ?? -1
  return at < 0 ? '' : `Band ${at + 1}: `
}
</script>

<template>
  <div :data-settled="settled && right">
    <template v-if="!field">
      <h2 class="heading mb-2 text-base">Put values into buckets</h2>
      <FieldFinder
        :fields="choosable"
        :set="document.records"
        :offers="offers ?? []"
        hint="Type to find a number, a date, a duration or a text"
        @choose="choose"
        @offer="emit('offer', $event)"
      />
    </template>
    <template v-else>
      <div class="mb-3 flex items-baseline gap-3">
        <input
          v-model="form.label"
          class="field heading max-w-60 py-0.5 text-base"
          :placeholder="label"
          aria-label="Name of the bucket"
          data-name
        />
        <span class="quiet"
          >bands of <b class="font-medium text-ink">{{ field.label }}</b></span
        >
        <button v-if="!props.made" class="link ml-auto" @click="form.of = ''">another field</button>
      </div>
      <p v-if="!listed" class="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1" data-proposals>
        <span class="quiet">Start with</span>
        <input
          v-model.number="parts"
          class="field w-14 py-0.5"
          type="number"
          min="2"
          max="50"
          aria-label="How many bands"
        />
        <button
          v-for="p in proposals"
          :key="p.kind"
          class="link"
          :data-propose="p.kind"
          @click="propose(p.kind)"
        >
          {{ p.words }}
        </button>
        <button v-if="dated(field)" class="link" data-age @click="emit('age', field)">its age in days</button>
      </p>
      <BandStrip v-if="preview && !listed && form.bands.length" :preview="preview" />
      <div class="flex gap-5">
        <BandTable
          v-model="form"
          v-model:active="active"
          :field="field"
          :listed="listed"
          :preview="preview"
        />
        <BandValues
          v-if="listed"
          class="w-64 shrink-0"
          :document="document"
          :field="field"
          :bands="form.bands"
          :active="active"
          @toggle="toggle"
        />
      </div>
      <p v-for="(f, i) in preview?.faults ?? []" :key="i" class="mt-2 text-mulberry" role="alert">
        {{ placeOf(i) }}{{ f }}
      </p>
      <p v-if="error || trouble" class="mt-2 text-mulberry" role="alert">{{ trouble || wordsOf(error) }}</p>
      <MadeFoot
        v-if="!sharing"
        :right="right"
        :there="!!props.made"
        @share="emit('share')"
        @remove="emit('remove')"
      />
    </template>
  </div>
</template>
