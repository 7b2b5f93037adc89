<script setup lang="ts">
import { keyOf, withWhom, type Share } from '../sharing/shares'
import { useSharesToAdd } from '../sharing/useSharesToAdd'

/** Who sees records that came as a file, beside their owner and administrators. */
const shares = defineModel<readonly Share[]>({ required: true })
const { open, add } = useSharesToAdd(shares)
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
