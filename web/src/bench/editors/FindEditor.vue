<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../bench'
import type { Extra } from './extra'
import FieldFinder from './FieldFinder.vue'
import OtherViews from './OtherViews.vue'

/** Finds what a new condition, question or level of groups is about. */
const props = defineProps<{ purpose: 'filter' | 'group' | 'ask' }>()
const { fields, set, editor, offers } = useBench()
const choosable = computed(() =>
  fields.value.filter((f) => f.kind !== 'per_total' && (props.purpose !== 'group' || f.type !== 'picture')),
)
const hints = {
  group: 'Type to find the field to group by; “month …” groups by months',
  ask: 'Type to find the field to ask the reader about',
  filter: 'Type to find the field, or the linked records, to filter by',
}
/** Records that link here, which a filter can ask about. */
const linked = computed<(Extra & { key: string; path: string })[]>(() =>
  props.purpose === 'filter'
    ? set.linkedBy.map((l) => ({
        key: `${l.records} ${l.by}`,
        name: l.label,
        path: l.by.includes('.') ? l.way : '',
        about: `${l.many} that link here by ${l.way}: how many, the latest, their total`,
        choose: () => editor.newLinked(l),
      }))
    : [],
)
</script>

<template>
  <FieldFinder
    :fields="choosable"
    :set="set.key"
    :hint="hints[purpose]"
    :grouping="purpose === 'group'"
    :extras="linked"
    :offers="offers"
    @choose="editor.chosen"
    @offer="editor.chosenOffer"
  />
  <template v-if="linked.length">
    <h3 class="quiet mt-3 border-b border-rule pb-1 text-xs">Or ask about the records that link here</h3>
    <p class="flex flex-wrap gap-x-4 gap-y-1 pt-1.5" data-linked-by>
      <button v-for="l in linked" :key="l.key" class="link" @click="l.choose">
        {{ l.name }}<span v-if="l.path" class="quiet"> by {{ l.path }}</span>
      </button>
    </p>
  </template>
  <OtherViews v-if="purpose === 'filter'" :label="set.label" @choose="editor.newWithin" />
</template>
