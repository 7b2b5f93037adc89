<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useTimeout } from '@vueuse/core'
import { computed } from 'vue'
import { queries } from '../api/queries'
import { formatAbout, formatSeconds } from '../words'

/** Tells of a question that a database works on for longer than a moment, and stops it. */
const emit = defineEmits<{ stop: [] }>()
const catalog = useQuery(queries.catalog())
const slow = useTimeout(1000)
const stays = computed(() => !!catalog.data.value?.sets.some((s) => s.stays))
const asking = useQuery(computed(() => ({ ...queries.asking(), enabled: slow.value && stays.value })))
const first = computed(() => asking.data.value?.asking[0])
const share = computed(() =>
  first.value?.expected ? Math.min(1, first.value.seconds / first.value.expected) : 0,
)
</script>

<template>
  <div
    v-if="first"
    class="relative flex items-baseline gap-3 border-b border-rule bg-sheet px-5 py-1.5 max-md:px-3"
    role="status"
    data-asking
  >
    <span
      class="absolute inset-x-0 bottom-0 h-0.5 bg-slate"
      :style="{ right: `${100 - share * 100}%` }"
    ></span>
    <span
      ><span class="text-slate" aria-hidden="true">◇</span> The database looks through
      {{ first.about ? `${formatAbout(first.about)} ` : '' }}{{ first.many }}:
      {{ formatSeconds(first.seconds)
      }}{{ first.expected > first.seconds ? ` of about ${formatSeconds(first.expected)}` : ''
      }}{{ (first.parts ?? 0) > 1 ? `, ${first.done ?? 0} of ${first.parts} parts` : '' }}.</span
    >
    <button class="link" @click="emit('stop')">Stop</button>
  </div>
</template>
