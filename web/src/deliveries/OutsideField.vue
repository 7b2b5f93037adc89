<script setup lang="ts">
import { ref } from 'vue'
import { wordsOf } from '../api/problem'
import { useDeliveries } from './useDeliveries'

/** To which addresses outside letters may go: administrators say so. */
const props = defineProps<{ outside: string }>()
const { allowOutside } = useDeliveries()
const text = ref(props.outside)
</script>

<template>
  <form class="mt-8 max-w-2xl" data-outside @submit.prevent="allowOutside.mutate(text)">
    <h2 class="border-b border-rule pb-2 font-medium text-mute">Addresses outside</h2>
    <p class="quiet my-2 text-[13px]">
      Letters go to people who can sign in, who get what they may see. To others they go only where you allow
      it here, as their owner sees them and without sensitive fields.
    </p>
    <p class="flex gap-3">
      <label class="min-w-0 flex-1"
        ><span class="sr-only">Domains that letters may go to</span
        ><input
          v-model="text"
          class="field py-1"
          maxlength="4000"
          placeholder="nowhere; else company.example, … or * for every address"
      /></label>
      <button type="submit" class="button" :disabled="allowOutside.isPending.value || text === outside">
        Allow these
      </button>
    </p>
    <p v-if="allowOutside.error.value" class="mt-1 text-mulberry" role="alert">
      {{ wordsOf(allowOutside.error.value) }}
    </p>
  </form>
</template>
