<script setup lang="ts">
import { computed } from 'vue'
import { wordsOf } from '../api/problem'
import type { Managing, NewField } from './usePeople'

/**
 * What came with a later load, or under another name, since limits were made. Whoever has
 * limits does not see it before an administrator has decided.
 */
const props = defineProps<{ fresh: readonly NewField[]; lost: readonly string[]; managing: Managing }>()
const { show, sensitive } = props.managing
const day = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
const trouble = computed(() => show.error.value ?? sensitive.error.value)
const busy = computed(() => show.isPending.value || sensitive.isPending.value)
async function markSensitive(f: NewField) {
  await sensitive.mutateAsync({ set: f.set, field: f.field, on: true })
  await show.mutateAsync({ set: f.set, field: f.field })
}
</script>

<template>
  <section
    v-if="fresh.length || lost.length"
    class="mb-6 max-w-3xl border-l-4 border-honey bg-sheet px-5 py-3"
    aria-label="New since limits were made"
    data-new-fields
  >
    <template v-if="fresh.length">
      <h2 class="heading text-base">New since limits were made</h2>
      <p class="quiet mb-2">
        Whoever has limits does not see these yet: a field that was kept back may have come under another
        name.
      </p>
      <p v-if="trouble" class="mb-2 text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
      <ul>
        <li
          v-for="f in fresh"
          :key="`${f.set}.${f.field}`"
          class="flex items-baseline gap-4 border-t border-rule py-1.5"
          :data-new="`${f.set}.${f.field}`"
        >
          <span class="min-w-0 flex-1"
            ><b class="mr-1.5 font-medium">{{ f.label }}</b
            ><span class="quiet"
              >{{ f.field ? `of ${f.of.toLowerCase()}` : 'a record set' }} ·
              {{ day.format(new Date(f.since)) }}</span
            ></span
          >
          <button v-if="f.field" class="link" :disabled="busy" @click="markSensitive(f)">
            Mark as sensitive
          </button>
          <button class="link" :disabled="busy" @click="show.mutate(f)">Show</button>
        </li>
      </ul>
    </template>
    <template v-if="lost.length">
      <h2 class="heading text-base" :class="fresh.length ? 'mt-3' : ''">Limits of what is gone</h2>
      <ul class="list-disc pl-5">
        <li v-for="l in lost" :key="l">{{ l }}</li>
      </ul>
    </template>
  </section>
</template>
