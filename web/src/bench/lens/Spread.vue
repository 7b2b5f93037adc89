<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, body, type Document, type Field } from '../../api/client'
import { n } from '../../words'

/** How a field's values are spread: records kept against all. A bar keeps its stretch only. */
const props = defineProps<{ document: Document; field: Field }>()
const emit = defineEmits<{ keep: [from: string | undefined, below: string | undefined] }>()

const { data } = useQuery({
  queryKey: ['distribution', computed(() => props.field.path), computed(() => props.document)],
  queryFn: () => body(api.POST('/api/distribution', { body: { view: props.document, field: props.field.path, bins: 24 } })),
  placeholderData: keepPreviousData,
})
const most = computed(() => Math.max(1, ...(data.value?.bins ?? []).map((b) => b.all)))
</script>

<template>
  <figure v-if="data?.bins.length" class="mb-3">
    <figcaption class="quiet border-b border-rule pb-1 text-xs">Spread, kept of all</figcaption>
    <div class="flex h-20 items-end gap-px border-b border-edge" data-spread>
      <button
        v-for="b in data.bins" :key="b.label" class="group relative h-full min-w-0 flex-1 hover:bg-mulberry-wash" :aria-label="`Keep only ${b.label}: ${n(b.kept)} of ${n(b.all)}`"
        :title="`${b.label}: ${n(b.kept)} of ${n(b.all)}`" @click="emit('keep', b.from, b.below)"
      >
        <span class="absolute inset-x-0 bottom-0 bg-bar opacity-50" :style="{ height: `${(100 * b.all) / most}%` }"></span>
        <span class="absolute inset-x-0 bottom-0 bg-pine" :style="{ height: `${(100 * b.kept) / most}%` }"></span>
      </button>
    </div>
    <p class="quiet flex justify-between text-xs"><span>{{ data.smallest }}</span><span>{{ data.largest }}</span></p>
  </figure>
</template>
