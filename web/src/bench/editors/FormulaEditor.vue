<script setup lang="ts">
import { computed, defineAsyncComponent, reactive, ref, watch } from 'vue'
import type { Calculated, Document, Field, LinkedOffer } from '../../api/client'
import { wordsOf } from '../../api/problem'
import { formatCount } from '../../words'
import {
  freshKey,
  freshLabel,
  nameOf,
  offeredField,
  putCalculated,
  quoted,
  startersFor,
  takeOffer,
  type Starter,
} from '../derivedFields'
import { useFormulaPreview, useFunctions } from './usePreview'
import MadeFoot from './MadeFoot.vue'

/** Edits one calculated field; what it gives on real records stands below it as one types. */
const FormulaInput = defineAsyncComponent(() => import('./FormulaInput.vue'))
const loaded = ref(false)
const props = defineProps<{
  /** The view without what is being changed. */
  document: Document
  made: Calculated | null
  fields: readonly Field[]
  /** No name for these records may be taken twice. */
  taken: (key: string) => boolean
  sharing?: boolean
  /** Values of linked records that a formula can name: the view makes those that it does. */
  offers?: readonly LinkedOffer[]
}>()
const emit = defineEmits<{
  /** before is the view with the linked values that the formula names. */
  change: [made: Calculated | null, fn: string | undefined, before: Document]
  share: []
  remove: []
}>()

const form = reactive({
  label: props.made?.label ?? '',
  formula: props.made?.formula ?? '',
  unit: props.made?.unit,
  currency: props.made?.currency ?? '',
  decimals: props.made?.decimals,
})
const functions = useFunctions()
const starters = computed(() => startersFor(props.fields))
const label = computed(
  () =>
    form.label.trim() || freshLabel(props.document, nameOf(form.formula) || 'Calculated', props.made?.key),
)
const key = computed(() => props.made?.key ?? freshKey(props.document, label.value, props.taken))
const draft = computed<Calculated | null>(() =>
  form.formula.trim() === ''
    ? null
    : {
        key: key.value,
        label: label.value,
        formula: form.formula,
        unit: form.unit || undefined,
        currency: form.unit === 'money' && form.currency ? form.currency : undefined,
        decimals: form.decimals ?? undefined,
      },
)
/** The fields without those that are tried out with the formula, which the view may not keep. */
const there = computed(() => {
  const kept = new Set(props.document.linked?.map((l) => l.key))
  return props.fields.filter((f) => f.kind !== 'linked' || f.shared || kept.has(f.path))
})
/** Offers that nothing is called like already; of several, the nearest. */
const offered = computed(() => {
  const called = new Set(there.value.map((f) => f.label))
  return (props.offers ?? []).filter((o) => !called.has(o.label) && called.add(o.label))
})
const nameable = computed(() => [...there.value, ...offered.value.map(offeredField)])
const before = computed(() =>
  offered.value
    .filter((o) => form.formula.includes(quoted(o.label)))
    .reduce((doc, o) => takeOffer(doc, o, props.taken).doc, props.document),
)
const tried = computed(
  () => draft.value && { view: putCalculated(before.value, draft.value), key: draft.value.key },
)
const { preview, error, settled } = useFormulaPreview(tried)
const faults = computed(() => (form.formula.trim() && preview.value?.faults) || [])
const right = computed(() => preview.value?.faults.length === 0 && draft.value !== null)
// The ledger follows what is right; what is not yet right is not tried out there.
watch(
  [settled, right, draft],
  () => {
    if (settled.value || !draft.value)
      emit('change', right.value ? draft.value : null, preview.value?.fn, before.value)
  },
  { immediate: true },
)

const chosen = computed({
  get: () => form.unit ?? '',
  set: (v) => (form.unit = (v || undefined) as Calculated['unit']),
})
const decimals = computed({
  get: () => (form.decimals === undefined ? '' : String(form.decimals)),
  set: (v) => (form.decimals = v === '' ? undefined : Number(v)),
})
const most = computed(() => Math.max(1, ...(preview.value?.bins ?? []).map((b) => b.kept)))
const example = computed(() => preview.value?.rows.find((r) => r.at(-1)) ?? preview.value?.rows[0])

/** Whether a column of the preview holds figures. */
const figures = (i: number) => preview.value?.numeric[i] === true

function start(s: Starter) {
  form.formula = s.formula
  form.unit = s.unit
}
</script>

<template>
  <div :data-settled="settled && right">
    <div class="mb-2 flex items-baseline gap-3">
      <input
        v-model="form.label"
        class="field heading max-w-72 py-0.5 text-base"
        :placeholder="form.formula ? label : 'Name of the field'"
        aria-label="Name of the calculated field"
        data-name
      />
      <span class="quiet ml-auto flex items-baseline gap-2 whitespace-nowrap"
        >shown as
        <select v-model="chosen" class="field w-auto py-0.5" aria-label="Shown as">
          <option value="">
            {{ preview && !preview.faults.length ? preview.word.replace(/^an? /, '') : 'it comes' }}
          </option>
          <option value="number">number</option>
          <option value="percent">percent</option>
          <option value="money">money</option>
        </select>
        <input
          v-if="form.unit === 'money'"
          v-model="form.currency"
          class="field w-16 py-0.5"
          maxlength="3"
          placeholder="EUR"
          aria-label="Currency"
        />
        <select
          v-model="decimals"
          class="field w-auto py-0.5"
          aria-label="Decimals"
          title="Rounds every result"
        >
          <option value="">all decimals</option>
          <option v-for="d in 7" :key="d" :value="String(d - 1)">{{ d - 1 }} decimals</option>
        </select>
      </span>
    </div>
    <!-- Until the line is loaded nothing else takes the keys that are meant for it. -->
    <span v-if="!loaded" data-first tabindex="-1"></span>
    <FormulaInput
      v-model="form.formula"
      :fields="nameable"
      :functions="functions"
      :faults="faults"
      @vue:mounted="loaded = true"
    />
    <div v-if="faults.length" class="mt-2 text-mulberry" role="alert">
      <p v-for="f in faults" :key="`${f.from} ${f.message}`" :data-fault="f.code">{{ f.message }}</p>
    </div>
    <p v-else-if="error" class="mt-2 text-mulberry" role="alert">{{ wordsOf(error) }}</p>

    <template v-if="!form.formula.trim()">
      <h3 class="quiet mt-4 mb-1">Or start from</h3>
      <ul class="grid grid-cols-2 gap-x-5">
        <li v-for="s in starters" :key="s.name" class="border-b border-rule">
          <button class="w-full py-1.5 text-left" :data-starter="s.name" @click="start(s)">
            <span class="font-medium">{{ s.name }}</span> <span class="quiet text-xs">{{ s.meaning }}</span>
          </button>
        </li>
      </ul>
    </template>
    <template v-else-if="preview && !preview.faults.length">
      <p class="mt-3" data-kind>
        <template v-if="preview.perTotal">
          <b class="text-honey">Worked out for each group</b> from the totals of its records, never as an
          average<template v-if="example"
            >: {{ example[0] }} gives <b>{{ example.at(-1) || 'a blank' }}</b></template
          >.
        </template>
        <template v-else>
          <b class="text-honey">Worked out for each record</b
          ><template v-if="example"
            >: the first below gives <b>{{ example.at(-1) || 'a blank' }}</b></template
          >.<template v-if="preview.approx"> Approximate, as it divides.</template>
        </template>
      </p>
      <table class="mt-2 w-full border-collapse text-[13px]" data-look>
        <thead>
          <tr class="border-b border-edge">
            <th
              v-for="(h, i) in preview.heads"
              :key="i"
              class="max-w-40 truncate px-1.5 py-1 font-medium"
              :class="[
                i === preview.heads.length - 1 ? 'text-honey' : 'text-mute',
                figures(i) ? 'text-right' : 'text-left',
              ]"
            >
              {{ h }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(row, r) in preview.rows"
            :key="r"
            class="border-b border-rule"
            :class="preview.perTotal && r === preview.rows.length - 1 && 'font-semibold'"
          >
            <td
              v-for="(cell, i) in row"
              :key="i"
              class="max-w-40 truncate px-1.5 py-0.5"
              :class="[i === row.length - 1 && 'bg-paper font-medium', figures(i) && 'text-right']"
            >
              {{ cell }}
            </td>
          </tr>
        </tbody>
      </table>
      <div v-if="!preview.perTotal" class="mt-3 flex items-end gap-6">
        <p class="quiet flex-1">
          <template v-if="preview.blanks"
            >{{ formatCount(preview.blanks) }} of {{ formatCount(preview.kept) }} come out blank<template
              v-if="preview.problems.length"
              >, of them {{ preview.problems.join('; ') }}</template
            >.</template
          >
          <template v-else>None of {{ formatCount(preview.kept) }} comes out blank.</template>
        </p>
        <div
          v-if="preview.bins.length > 1"
          class="flex h-10 w-64 items-end gap-px border-b border-edge"
          role="img"
          aria-label="How the results are spread"
        >
          <span
            v-for="b in preview.bins"
            :key="b.label"
            class="min-w-0 flex-1 bg-honey opacity-70"
            :style="{ height: `${Math.max(2, (100 * b.kept) / most)}%` }"
            :title="`${b.label}: ${formatCount(b.kept)}`"
          ></span>
        </div>
      </div>
      <p v-else-if="preview.problems.length" class="quiet mt-2">{{ preview.problems.join('; ') }}</p>
    </template>
    <MadeFoot
      v-if="draft && !sharing"
      :right="right"
      :there="!!props.made"
      @share="emit('share')"
      @remove="emit('remove')"
    />
  </div>
</template>
