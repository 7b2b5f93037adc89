<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Document, Field, LinkedOffer, Sort } from '../../api/client'
import { takeOffer } from '../derivedFields'
import { setSort } from '../document'
import FieldFinder from './FieldFinder.vue'

/** The order of records: keys by weight, each with a direction. */
const props = defineProps<{
  document: Document
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  offers: readonly LinkedOffer[]
}>()
const emit = defineEmits<{ change: [doc: Document] }>()
const sort = computed(() => props.document.sort ?? [])
const adding = ref(!sort.value.length)

function put(next: Sort[]) {
  emit('change', setSort(props.document, next))
}
function add(field: Field) {
  put([...sort.value.filter((s) => s.field !== field.path), { field: field.path, desc: field.numeric }])
  adding.value = false
}
function addOffer(offer: LinkedOffer) {
  const { doc, made } = takeOffer(props.document, offer, (key) => props.byPath.has(key))
  emit('change', setSort(doc, [...sort.value, { field: made.key, desc: offer.type !== 'text' }]))
  adding.value = false
}
function words(s: Sort): string {
  const type = props.byPath.get(s.field)?.type
  if (type === 'date' || type === 'datetime') return s.desc ? 'latest first' : 'earliest first'
  if (props.byPath.get(s.field)?.numeric) return s.desc ? 'largest first' : 'smallest first'
  return s.desc ? 'from Z to A' : 'from A to Z'
}
</script>

<template>
  <div>
    <h2 class="heading mb-2 text-base">
      Order of records{{ document.groups?.length ? ' within their group' : '' }}
    </h2>
    <ol>
      <li v-for="(s, i) in sort" :key="s.field" class="flex items-baseline gap-3 border-b border-rule py-1.5">
        <span class="quiet w-10">{{ i ? 'then' : 'by' }}</span>
        <span class="flex-1">{{ byPath.get(s.field)?.label ?? s.field }}</span>
        <button class="link" @click="put(sort.map((x, j) => (j === i ? { ...x, desc: !x.desc } : x)))">
          {{ words(s) }}
        </button>
        <button
          class="quiet px-1"
          :aria-label="`Do not sort by ${byPath.get(s.field)?.label}`"
          @click="put(sort.filter((_, j) => j !== i))"
        >
          ×
        </button>
      </li>
    </ol>
    <FieldFinder
      v-if="adding"
      class="mt-3"
      :fields="fields"
      :set="document.records"
      :offers="offers"
      hint="Type to find the field to sort by"
      @choose="add"
      @offer="addOffer"
    />
    <p v-else class="mt-3"><button class="link" @click="adding = true">then by …</button></p>
  </div>
</template>
