<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { RecordSet } from '../api/client'
import { wordsOf } from '../api/problem'
import { queries } from '../api/queries'
import FilePanel from '../intake/FilePanel.vue'
import FactTable from '../facts/FactTable.vue'
import FieldTable from './FieldTable.vue'
import LinkTable from './LinkTable.vue'
import StayLine from './StayLine.vue'
import SetForm from './SetForm.vue'
import { useDescribing } from './useDescribing'

/** One record set: what a row is, its fields and its links. Administrators describe them here. */
const props = defineProps<{ set: RecordSet; sets: readonly RecordSet[]; administrator: boolean }>()
const key = computed(() => props.set.key)
const broughtIn = useQuery(queries.broughtIn())
const file = computed(() => broughtIn.data.value?.sets.find((s) => s.set === props.set.key))
// Whoever brought records in describes them, too.
const may = computed(() => props.administrator || !!file.value?.mine)
const describing = useDescribing(key, may)
const { description, undoable, undo, saying } = describing
const problems = computed(() => description.data.value?.problems ?? [])
const editing = ref(false)
</script>

<template>
  <section :aria-label="set.label">
    <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <h2 class="heading text-xl">{{ set.label }}</h2>
      <span class="quiet min-w-0">{{ set.grain }}</span>
      <span class="ml-auto flex gap-4"
        ><button v-if="description.data.value" class="link" data-describe-set @click="editing = !editing">
          Describe
        </button>
        <RouterLink class="link" :to="`/overview/${set.key}`" data-overview>Look over</RouterLink>
        <RouterLink class="link" :to="`/new/${set.key}`">Start a view</RouterLink></span
      >
    </div>
    <p v-if="set.source" class="quiet">from the database {{ set.source }}</p>
    <StayLine v-if="set.stays || (administrator && !file)" :set="set" :administrator="administrator" />
    <FilePanel v-if="file" :set="set" :file="file" />
    <p v-if="undoable" class="mt-2 border-l-4 border-pine bg-pine-wash px-4 py-1.5" role="status" data-said>
      {{ undoable.words }} Everybody sees it so.
      <button class="link" data-undo :disabled="saying.isPending.value" @click="undo">Undo</button>
    </p>
    <p v-else-if="saying.error.value" class="mt-2 text-mulberry" role="alert">
      {{ wordsOf(saying.error.value) }}
    </p>
    <ul v-if="problems.length" class="mt-2 border-l-4 border-honey bg-sheet px-4 py-1.5" data-problems>
      <li v-for="p in problems" :key="p.path">{{ p.message }}</li>
    </ul>
    <p v-if="set.withheld.length" class="quiet mt-2" data-withheld>
      Kept from you: {{ set.withheld.join(', ') }}. Ask an administrator if you need them.
    </p>
    <p v-if="administrator && !set.address" class="quiet mt-2">
      Nothing tells one of these records from another, so none can be opened by itself. If a field does, say
      so under “Describe”.
    </p>
    <SetForm v-if="editing" :describing="describing" @done="editing = false" />
    <FieldTable :set="set" :describing="describing" />
    <FactTable :set="set" :administrator="administrator" />
    <LinkTable :set="set" :sets="sets" :describing="describing" />
  </section>
</template>
