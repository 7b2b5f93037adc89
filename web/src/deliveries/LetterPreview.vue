<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, toRef } from 'vue'
import type { DeliveryTerms } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'

/** The letter as it would come to oneself, as a page or as plain text. */
const props = defineProps<{ view: string; terms: DeliveryTerms }>()
const settled = refDebounced(toRef(props, 'terms'), 400)
const letter = useQuery(
  computed(() => ({
    ...queries.deliveryPreview(props.view, settled.value),
    placeholderData: keepPreviousData,
  })),
)
const plain = ref(false)
</script>

<template>
  <section class="flex min-h-0 min-w-0 flex-col" aria-label="The letter" data-letter-preview>
    <p v-if="letter.error.value" class="text-mulberry" role="alert">{{ wordsOf(letter.error.value) }}</p>
    <template v-else-if="letter.data.value">
      <p class="mb-1 flex items-baseline gap-3">
        <b class="min-w-0 flex-1 truncate font-medium" :title="letter.data.value.subject" data-subject>{{
          letter.data.value.subject
        }}</b>
        <button type="button" class="quiet text-xs underline decoration-dotted" @click="plain = !plain">
          {{ plain ? 'as a page' : 'as plain text' }}
        </button>
      </p>
      <pre
        v-if="plain"
        class="h-[30rem] overflow-auto border border-rule p-3 text-xs"
        tabindex="0"
        aria-label="The letter as plain text"
        >{{ letter.data.value.text }}</pre>
      <iframe
        v-else
        class="h-[30rem] w-full border border-rule bg-white"
        title="The letter as a page"
        sandbox=""
        :srcdoc="letter.data.value.html"
      ></iframe>
      <p class="quiet mt-1 text-[13px]">
        <template v-if="letter.data.value.files.length"
          >With {{ letter.data.value.files.join('; ') }}.
        </template>
        <span v-if="!letter.data.value.met" class="text-honey"
          >It would not be sent now: {{ letter.data.value.found }}.</span
        ><template v-else>This is how you would get it; others get what they may see.</template>
      </p>
    </template>
    <p v-else class="quiet">Writing the letter …</p>
  </section>
</template>
