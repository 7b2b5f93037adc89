<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, unwrap, type Band, type Bucket, type Document, type Field } from '../../api/client'
import { wordsOf } from '../../api/problem'
import { formatCount } from '../../words'
import { freshKey, freshLabel, putBucket } from '../derivedFields'
import BandStrip from './BandStrip.vue'
import BandValues from './BandValues.vue'
import FieldFinder from './FieldFinder.vue'
import { useBucketPreview } from './usePreview'

/** Edits one bucket: its bands in their order, what lies in each, and where they do not meet. */
const props = defineProps<{
  document: Document
  made: Bucket | null
  /** The field to begin with. */
  of?: Field
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  taken: (key: string) => boolean
  sharing?: boolean
}>()
const emit = defineEmits<{ change: [made: Bucket | null]; share: []; remove: []; age: [field: Field] }>()

type Row = { id: number; label: string; from: string; below: string; values: string[] }
let ids = 0
const rowOf = (b: Band): Row => ({
  id: ids++,
  label: b.label ?? '',
  from: b.from ?? '',
  below: b.below ?? '',
  values: [...(b.values ?? [])],
})
const form = reactive({
  label: props.made?.label ?? '',
  of: props.made?.of ?? props.of?.path ?? '',
  blank: props.made?.blank ?? '',
  rest: props.made?.rest ?? '',
  bands: (props.made?.bands ?? []).map(rowOf),
})
const choosable = computed(() =>
  props.fields.filter((f) => f.type !== 'picture' && f.type !== 'yesno' && f.kind !== 'per_total'),
)
const field = computed(() => props.byPath.get(form.of))
const listed = computed(() => field.value?.type === 'text')
const dated = computed(() => field.value?.type === 'date' || field.value?.type === 'datetime')
const label = computed(
  () =>
    form.label.trim() ||
    freshLabel(props.document, field.value ? `${field.value.label} bands` : 'Bands', props.made?.key),
)
const key = computed(() => props.made?.key ?? freshKey(props.document, label.value, props.taken))
const draft = computed<Bucket | null>(() =>
  !form.of || !form.bands.length
    ? null
    : {
        key: key.value,
        label: label.value,
        of: form.of,
        blank: form.blank.trim() || undefined,
        rest: form.rest.trim() || undefined,
        bands: form.bands.map((b) =>
          listed.value
            ? { label: b.label.trim() || undefined, values: b.values }
            : {
                label: b.label.trim() || undefined,
                from: b.from.trim() || undefined,
                below: b.below.trim() || undefined,
              },
        ),
      },
)
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
async function propose(kind: 'widths' | 'counts' | 'ageing') {
  trouble.value = ''
  const field = form.of
  try {
    const got = await unwrap(
      api.POST('/api/split', { body: { view: props.document, field, kind, parts: parts.value } }),
    )
    // Of another field by now, what comes late is of no use.
    if (form.of === field) form.bands = got.bands.map(rowOf)
  } catch (cause) {
    if (form.of === field) trouble.value = wordsOf(cause)
  }
}
function choose(f: Field) {
  form.of = f.path
  form.bands = []
  if (f.type !== 'text') void propose(f.type === 'duration' ? 'ageing' : 'counts')
}
if (!props.made && props.of) choose(props.of)
function addBand() {
  const last = form.bands.at(-1)
  form.bands.push(rowOf({ from: last?.below ?? '' }))
}
function move(from: number, to: number) {
  const [row] = form.bands.splice(from, 1)
  if (row) form.bands.splice(Math.max(0, Math.min(to, form.bands.length)), 0, row)
}
const dragged = ref<number | null>(null)
function dragOver(i: number) {
  if (dragged.value === null || dragged.value === i) return
  move(dragged.value, i)
  dragged.value = i
}
const active = ref(0)
function toggle(value: string) {
  const had = form.bands.findIndex((b) => b.values.includes(value))
  if (had >= 0) form.bands[had]!.values = form.bands[had]!.values.filter((v) => v !== value)
  if (had === active.value) return
  if (!form.bands.length) addBand()
  form.bands[Math.min(active.value, form.bands.length - 1)]!.values.push(value)
}
/** The band that a fault lies in, in words. */
const placeOf = (fault: number) => {
  const at = preview.value?.faulty[fault] ?? -1
  return at < 0 ? '' : `Band ${at + 1}: `
}
const kinds: Record<string, string> = {
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
  <div :data-settled="settled && right">
    <template v-if="!field">
      <h2 class="heading mb-2 text-base">Put values into buckets</h2>
      <FieldFinder
        :fields="choosable"
        hint="Type to find a number, a date, a duration or a text"
        @choose="choose"
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
        <button class="link" @click="propose('widths')">equal widths</button>
        <button class="link" @click="propose('counts')">equal counts</button>
        <button v-if="dated" class="link" data-age @click="emit('age', field)">its age in days</button>
        <button
          v-else-if="field.type === 'whole' || field.type === 'duration'"
          class="link"
          data-ageing
          @click="propose('ageing')"
        >
          ages 7 / 14 / 30 / 60 / 90 / 180 / 365 days
        </button>
      </p>
      <BandStrip v-if="preview && !listed && form.bands.length" :preview="preview" />
      <div class="flex gap-5">
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
          <tbody>
            <tr
              v-for="(b, i) in form.bands"
              :key="b.id"
              class="border-b border-rule"
              :class="(dragged === i || (listed && active === i)) && 'bg-mulberry-wash'"
              @click="active = i"
              @dragover.prevent="dragOver(i)"
              @drop.prevent="dragged = null"
            >
              <td>
                <button
                  class="quiet cursor-grab px-1"
                  draggable="true"
                  title="Drag, or use the arrow keys"
                  :aria-label="`Band ${i + 1}: move with the arrow keys`"
                  @dragstart="dragged = i"
                  @dragend="dragged = null"
                  @keydown.up.prevent="move(i, i - 1)"
                  @keydown.down.prevent="move(i, i + 1)"
                >
                  ⋮⋮
                </button>
              </td>
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
                    :placeholder="i ? kinds[field.type] : 'no bound'"
                    :aria-label="`Band ${i + 1} from`"
                  />
                </td>
                <td class="pr-2">
                  <input
                    v-model="b.below"
                    class="field py-0.5"
                    :placeholder="i === form.bands.length - 1 ? 'no bound' : kinds[field.type]"
                    :aria-label="`Band ${i + 1} up to`"
                  />
                </td>
              </template>
              <td v-else class="max-w-52 truncate text-xs" :title="b.values.join(', ')">
                {{ b.values.join(', ') || 'tick values at the right' }}
              </td>
              <td class="text-right" data-count>
                {{ preview?.bands[i] ? formatCount(preview.bands[i]!.kept) : '' }}
              </td>
              <td>
                <button
                  class="quiet px-1 text-base"
                  :aria-label="`Remove band ${i + 1}`"
                  @click.stop="form.bands.splice(i, 1)"
                >
                  ×
                </button>
              </td>
            </tr>
            <tr class="border-b border-rule">
              <td></td>
              <td class="py-1 pr-2">
                <input
                  v-model="form.rest"
                  class="field py-0.5"
                  placeholder="Everything else"
                  aria-label="Name of the rest"
                />
              </td>
              <td :colspan="listed ? 1 : 2" class="quiet text-xs">what fits no band</td>
              <td class="text-right">{{ preview ? formatCount(preview.rest.kept) : '' }}</td>
              <td></td>
            </tr>
            <tr>
              <td></td>
              <td class="py-1 pr-2">
                <input
                  v-model="form.blank"
                  class="field py-0.5"
                  placeholder="Blank"
                  aria-label="Name of the blanks"
                />
              </td>
              <td :colspan="listed ? 1 : 2" class="quiet text-xs">what has no value</td>
              <td class="text-right">{{ preview ? formatCount(preview.blank.kept) : '' }}</td>
              <td></td>
            </tr>
          </tbody>
        </table>
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
      <p class="mt-3 flex gap-5 border-t border-rule pt-3">
        <button class="link" data-add-band @click="addBand">Add a band</button>
        <button
          v-if="!sharing"
          class="link"
          :disabled="!right"
          data-share
          title="Every view of these records can use it"
          @click="emit('share')"
        >
          Save for all views
        </button>
        <button v-if="props.made && !sharing" class="link ml-auto" @click="emit('remove')">
          Take out of this view
        </button>
      </p>
    </template>
  </div>
</template>
