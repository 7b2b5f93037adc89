<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { queries } from '../api/queries'
import { choices, keyOf, withWhom, type Share } from '../sharing/shares'

/** Who sees records that came as a file, beside their owner and administrators. */
const shares = defineModel<Share[]>({ required: true })
const names = useQuery(queries.names())
const open = computed(() =>
  choices(names.data.value?.groups ?? []).filter((c) => !shares.value.some((s) => keyOf(s) === keyOf(c))),
)
function add(event: Event) {
  const select = event.target as HTMLSelectElement
  const one = open.value.find((c) => keyOf(c) === select.value)
  if (one) shares.value = [...shares.value, one]
  select.value = ''
}
</script>

<template>
  <fieldset>
    <legend class="quiet mb-0.5">Who sees them</legend>
    <span class="flex flex-wrap items-baseline gap-x-3 gap-y-1" data-shares>
      <span v-if="!shares.length" class="py-1.5">Only you, and administrators.</span>
      <span v-for="s in shares" :key="keyOf(s)" class="py-1.5"
        >{{ withWhom(s)
        }}<button
          type="button"
          class="quiet px-1"
          :aria-label="`Not ${withWhom(s)}`"
          title="Not them"
          @click="shares = shares.filter((x) => x !== s)"
        >
          ×
        </button></span
      >
      <select
        v-if="open.length"
        class="field !w-auto py-0.5 text-[13px]"
        aria-label="Let others see them"
        data-share-with
        @change="add"
      >
        <option value="">and …</option>
        <option v-for="c in open" :key="keyOf(c)" :value="keyOf(c)">{{ withWhom(c) }}</option>
      </select>
    </span>
  </fieldset>
</template>
