<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Field, LinkedOffer } from '../../api/client'
import { queries } from '../../api/queries'
import { nearest, type Findable } from '../../shell/nearest'
import { useCombobox } from '../../shell/useCombobox'
import { loneKey, loneLinked } from '../derivedFields'
import { findable, findGroups, type Unit } from '../foundFields'
import type { Extra } from './extra'
import MadePreview from './MadePreview.vue'

/** Finds a field by typing: label, path, meaning, and what it holds. Enter chooses. */
const props = defineProps<{
  fields: readonly Field[]
  /** The record set, so that values are searched as well. */
  set?: string
  used?: readonly string[]
  hint?: string
  /** Stays open for the next field; Enter in the empty line then is left to the editor around it. */
  stays?: boolean
  /** A unit of time that is typed is chosen with its date. */
  grouping?: boolean
  /** What else can be chosen here. */
  extras?: readonly Extra[]
  /** Values of linked records that the view would make fields of. */
  offers?: readonly LinkedOffer[]
}>()
const emit = defineEmits<{ choose: [field: Field, unit: Unit | undefined]; offer: [offer: LinkedOffer] }>()
const typed = ref('')

const searched = refDebounced(
  computed(() => typed.value.trim()),
  120,
)
const { data: holding } = useQuery(computed(() => queries.holding(props.set ?? '', searched.value)))

interface Hit {
  key: string
  field?: Field
  unit?: Unit
  extra?: Extra
  offer?: LinkedOffer
  /** Values that the field holds. */
  holds: string
}
const held = computed(
  () =>
    new Map(
      searched.value === typed.value.trim() ? (holding.value?.fields ?? []).map((h) => [h.path, h]) : [],
    ),
)
function holds(path: string): string {
  const h = held.value.get(path)
  if (!h) return ''
  const more = h.found - h.values.length
  return `holds ${h.values.join(', ')}${more > 0 ? ` and ${more} more` : ''}`
}
const ofField = (field: Field, unit?: Unit): Hit => ({
  key: `${field.path} ${unit ?? ''}`,
  field,
  unit,
  holds: holds(field.path),
})
const ofExtra = (extra: Extra): Hit => ({ key: `extra ${extra.name} ${extra.about}`, extra, holds: '' })

const ofOffer = (offer: LinkedOffer): Hit => ({
  key: `offer ${offer.label} ${offer.by.by}`,
  offer,
  holds: '',
})
/** What a hit is found by. Of what is no field as yet, its name and the records it is of tell. */
function describe({ field, extra, offer }: Hit): Findable {
  if (field) return findable(field)
  if (extra) return { name: extra.name, meaning: extra.about }
  return { name: offer!.label, path: offer!.by.label, kind: offer!.typeName }
}

const called = computed<Hit[]>(() => {
  const sought = typed.value.trim()
  const beside = sought ? [...(props.extras ?? []).map(ofExtra), ...(props.offers ?? []).map(ofOffer)] : []
  if (!props.grouping) return nearest(sought, [...props.fields.map((f) => ofField(f)), ...beside], describe)
  const groups = findGroups(props.fields, typed.value).map((g) => ofField(g.field, g.unit))
  return [...groups, ...nearest(sought, beside, describe)]
})
/** What is called so comes before what only holds it. */
const found = computed<Hit[]>(() => {
  const there = new Set(called.value.map((hit) => hit.field?.path))
  const rest = props.fields.filter((f) => held.value.has(f.path) && !there.has(f.path))
  return [...called.value, ...rest.map((f) => ofField(f))].slice(0, 60)
})
const { at, input, list, option, onKeydown } = useCombobox(found, choose)

function choose(hit: Hit) {
  if (hit.extra) hit.extra.choose()
  else if (hit.offer) emit('offer', hit.offer)
  else if (hit.field) emit('choose', hit.field, hit.unit)
  typed.value = ''
}
function key(event: KeyboardEvent) {
  if (event.key !== 'Enter' || !props.stays || typed.value) onKeydown(event)
}
function kindOf({ field, unit, offer }: Hit): string {
  if (offer) return `from ${offer.by.many} · ${offer.typeName}`
  if (!field) return 'linked records'
  const origin = field.kind ? `${field.shared ? 'defined' : 'made here'} · ` : ''
  const fullness = field.kind ? '' : ` · ${Math.floor(field.filled * 100)} % filled`
  const by = unit ? `by ${unit.replace('_', ' ')} · ` : ''
  const shown = props.used?.includes(field.path) ? ' · shown' : ''
  return `${by}${origin}${field.typeName}${fullness}${shown}`
}
const aboutOf = ({ field, extra, offer }: Hit) =>
  field
    ? [field.meaning, field.samples.join(', ')].filter(Boolean).join('  —  ')
    : (extra?.about ?? offer?.meaning ?? '')
/** Of so many offers that are found, what they would hold is looked up. */
const previewed = 12
</script>

<template>
  <div>
    <input
      v-model="typed"
      data-first
      class="field"
      v-bind="input()"
      :placeholder="hint ?? 'Type to find a field'"
      aria-label="Find a field"
      @keydown="key"
    />
    <ul
      v-bind="list"
      class="mt-2 overflow-auto"
      :class="stays && !typed ? 'max-h-36' : 'max-h-72'"
      aria-label="Fields"
    >
      <li
        v-for="(hit, i) in found"
        :key="hit.key"
        v-bind="option(i)"
        class="grid cursor-pointer grid-cols-[1fr_auto] gap-x-4 border-b border-rule px-2 py-1.5"
        :class="i === at && 'bg-mulberry-wash'"
      >
        <span class="min-w-0 truncate">
          <b class="font-medium">{{ hit.field?.label ?? hit.extra?.name ?? hit.offer?.label }}</b>
          <span v-if="hit.field?.way.length" class="quiet"> in {{ hit.field.way.join(' › ') }}</span>
        </span>
        <span class="quiet text-right text-xs leading-5">{{ kindOf(hit) }}</span>
        <span v-if="hit.holds" class="col-span-2 truncate text-xs text-mulberry" data-holds>{{
          hit.holds
        }}</span>
        <span v-else class="quiet col-span-2 truncate text-xs"
          >{{ aboutOf(hit)
          }}<template v-if="hit.offer && set && i < previewed"
            >{{ '  —  '
            }}<MadePreview brief :view="loneLinked(set, hit.offer.made)" :made="loneKey" /></template
        ></span>
      </li>
    </ul>
    <p v-if="!found.length" class="quiet py-3">
      No field is called that, and none holds it. Try one word, or a value.
    </p>
  </div>
</template>
