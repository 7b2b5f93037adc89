<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Field, RecordSet } from '../api/client'
import { queries } from '../api/queries'
import Grip from '../shell/Grip.vue'
import { useReorder } from '../shell/useReorder'
import { withOrder } from './describing'
import FieldForm from './FieldForm.vue'
import type { Describing } from './useDescribing'

/** The fields of a record set. Administrators open one to describe it, and drag them into order. */
const props = defineProps<{ set: RecordSet; describing: Describing }>()
const { description, saying } = props.describing
const fields = useQuery(computed(() => queries.fields(props.set.key)))
const loaded = computed(() => description.data.value?.loaded.fields)
const own = ref<Field[]>([])
watch(
  [() => fields.data.value, loaded],
  ([data]) => {
    own.value = data?.fields.filter((f) => !f.way.length && (!f.hidden || (loaded.value && !f.kind))) ?? []
  },
  { immediate: true },
)
const open = ref('')
const list = useTemplateRef('list')
/** The stored fields in order, as keys: made ones follow them. */
const stored = computed(() => own.value.filter((f) => !f.kind))
const reorder = useReorder(
  list,
  () => stored.value.length,
  (from, to) => {
    const next = stored.value.slice()
    next.splice(to, 0, ...next.splice(from, 1))
    own.value = [...next, ...own.value.filter((f) => f.kind)]
  },
  () => {
    const now = description.data.value
    if (!now) return
    const keys = now.loaded.fields.map((f) => f.key)
    const next = withOrder(
      now.said,
      stored.value.map((f) => f.path),
      keys,
    )
    saying.mutate({ next, words: `The fields of ${props.set.label} are in another order.` })
  },
)
const wordsBy = (key: string) =>
  Object.keys(description.data.value?.by ?? {}).some((path) => path.startsWith(`fields.${key}.`))
</script>

<template>
  <table class="mt-3 w-full table-fixed border-collapse text-left">
    <thead>
      <tr class="border-b border-rule text-mute">
        <th v-if="loaded" class="w-10"><span class="sr-only">Order</span></th>
        <th class="w-[42%] py-1.5 font-medium max-md:w-[55%]">Field</th>
        <th class="w-28 font-medium">Type</th>
        <th class="w-20 text-right font-medium">Filled</th>
        <th class="pl-8 font-medium max-md:hidden">For example</th>
      </tr>
    </thead>
    <tbody ref="list">
      <template v-for="(f, i) in own" :key="f.path">
        <tr
          class="border-b border-rule align-baseline"
          :class="f.hidden && 'quiet'"
          :data-place="i < stored.length ? i : undefined"
          :data-field-row="f.path"
        >
          <td v-if="loaded">
            <Grip v-if="i < stored.length" :reorder="reorder" :index="i" :name="f.label" />
          </td>
          <td class="py-1.5 pr-4">
            <button
              v-if="loaded?.some((l) => l.key === f.path)"
              class="text-left font-medium hover:text-mulberry"
              :aria-expanded="open === f.path"
              :title="`Say what ${f.label} means`"
              @click="open = open === f.path ? '' : f.path"
            >
              {{ f.label }}</button><b v-else class="font-medium">{{ f.label }}</b>
            <span v-if="wordsBy(f.path)" class="ml-2 text-xs text-pine">described here</span>
            <span v-if="f.hidden" class="ml-2 text-xs">not offered</span>
            <span v-if="f.kind" class="quiet ml-2 text-xs">a definition</span>
            <span v-if="f.meaning" class="quiet block">{{ f.meaning }}</span>
          </td>
          <td class="pr-4">{{ f.typeName }}</td>
          <td class="text-right">{{ f.filled < 0 ? '' : `${Math.floor(f.filled * 1000) / 10} %` }}</td>
          <td class="quiet truncate pl-8 max-md:hidden">{{ f.samples.join(' · ') }}</td>
        </tr>
        <tr v-if="open === f.path && loaded">
          <td :colspan="5" class="py-2">
            <FieldForm
              :key="f.path"
              :set="set.key"
              :field="loaded.find((l) => l.key === f.path)!"
              :current="f"
              :describing="describing"
              @done="open = ''"
            />
          </td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-if="own.some((f) => f.first)" class="quiet mt-1 text-xs" data-first>
    Filled and examples are of the first records alone.
  </p>
</template>
