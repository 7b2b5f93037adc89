<script setup lang="ts">
import { computed, ref } from 'vue'
import type { RecordSet } from '../api/client'
import LinkForm from './LinkForm.vue'
import type { Describing } from './useDescribing'

/** The links of a record set, both ways. Administrators describe them, and add further ones. */
const props = defineProps<{ set: RecordSet; sets: readonly RecordSet[]; describing: Describing }>()
const { description } = props.describing
const open = ref<string | null>(null)
const labelOf = (key: string) => props.sets.find((s) => s.key === key)?.label ?? key
const here = computed(() => props.set.links.filter((l) => !l.hidden || description.data.value))
/** Links of other sets that lead here directly. */
const back = computed(() => props.set.linkedBy.filter((l) => !l.by.includes('.')))
const toggle = (key: string) => (open.value = open.value === key ? null : key)
</script>

<template>
  <div class="mt-6 grid grid-cols-2 items-start gap-x-10 gap-y-4 max-md:grid-cols-1">
    <table v-if="here.length || description.data.value" class="w-full border-collapse text-left" data-links>
      <caption class="mb-1 border-b border-rule py-1 text-left font-medium text-mute">
        Each links to
      </caption>
      <tbody>
        <template v-for="l in here" :key="l.key">
          <tr class="border-b border-rule align-baseline" :class="l.hidden && 'quiet'">
            <td class="w-[45%] py-1.5 pr-4">
              <button
                v-if="description.data.value"
                class="text-left font-medium hover:text-mulberry"
                :aria-expanded="open === l.key"
                @click="toggle(l.key)"
              >
                {{ l.label }}</button><b v-else class="font-medium">{{ l.label }}</b>
              <span v-if="l.added" class="ml-2 text-xs text-pine">added here</span>
              <span v-if="l.hidden" class="ml-2 text-xs">not offered</span>
              <span v-if="l.meaning" class="quiet block">{{ l.meaning }}</span>
            </td>
            <td>
              <RouterLink class="link" :to="{ query: { set: l.to } }">{{ labelOf(l.to) }}</RouterLink>
              <span v-if="l.back" class="quiet block text-xs">whose “{{ l.back }}” these are</span>
            </td>
          </tr>
        </template>
        <tr v-if="!here.length">
          <td class="quiet py-1.5">nothing</td>
        </tr>
      </tbody>
    </table>
    <table v-if="back.length" class="w-full border-collapse text-left" data-linked-by>
      <caption class="mb-1 border-b border-rule py-1 text-left font-medium text-mute">
        Is linked to by
      </caption>
      <tbody>
        <tr v-for="l in back" :key="`${l.records} ${l.by}`" class="border-b border-rule align-baseline">
          <td class="w-[45%] py-1.5 pr-4">
            <RouterLink class="link" :to="{ query: { set: l.records } }">{{ l.label }}</RouterLink>
          </td>
          <td class="quiet">as their {{ l.way }}</td>
        </tr>
      </tbody>
    </table>
    <LinkForm
      v-if="open !== null && description.data.value"
      :key="open"
      class="col-span-full"
      :link="open"
      :sets="sets"
      :set="set"
      :describing="describing"
      @done="open = null"
    />
    <p v-if="description.data.value && open === null" class="col-span-full">
      <button class="link" data-add-link @click="open = ''">Add a link</button>
      <span class="quiet"> to records that hold the same as a field here, without a key in the database</span>
    </p>
  </div>
</template>
