<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Document } from '../api/client'
import type { Frozen } from '../api/frozen'
import { wordsOf } from '../api/problem'
import { pagesAtOnce, queries } from '../api/queries'
import { formatCount } from '../words'
import PageSheet from './PageSheet.vue'

/** The pages that will print, one by one, and what of them is to be known before they do. */
const props = defineProps<{ name: string; document: Document; depth?: number; frozen?: Frozen }>()
const emit = defineEmits<{ fits: [yes: boolean]; levels: [names: readonly string[]] }>()
const at = ref(1)
/** The first of the pages that are asked for together with the one shown. */
const from = computed(() => at.value - ((at.value - 1) % pagesAtOnce))
const asked = shallowRef({ document: props.document, depth: props.depth })
watch(
  () => [props.document, props.depth] as const,
  useDebounceFn(([document, depth]: readonly [Document, number | undefined]) => {
    asked.value = { document, depth }
  }, 150),
)
const pages = useQuery(
  computed(() => ({
    ...queries.exportPages(props.name, asked.value.document, asked.value.depth, from.value, props.frozen),
    placeholderData: keepPreviousData,
    retry: false,
  })),
)
const found = computed(() => (pages.error.value ? undefined : pages.data.value))
const shown = computed(() => found.value?.pages.find((p) => p.number === at.value) ?? found.value?.pages[0])
watch(
  found,
  (now) => {
    if (!now) return
    if (at.value > now.count) at.value = now.count
    emit('levels', now.levels)
  },
  { immediate: true },
)
watch([found, () => pages.error.value], () => emit('fits', !!found.value), { immediate: true })
const wanted = computed(() => props.document.paper?.type ?? 9)
</script>

<template>
  <div :class="pages.isPlaceholderData.value && 'opacity-60'">
    <p v-if="pages.error.value" class="text-mulberry" role="alert" data-preview-trouble>
      {{ wordsOf(pages.error.value) }}
    </p>
    <template v-else-if="found && shown">
      <div class="bg-paper p-3">
        <PageSheet :page="shown" class="mx-auto max-h-[56vh] !w-auto max-w-full" />
      </div>
      <p class="mt-2 flex items-baseline gap-3" data-expected>
        <button type="button" class="link" :disabled="at <= 1" aria-label="The page before" @click="at--">
          ‹
        </button>
        <span>page {{ formatCount(at) }} of {{ formatCount(found.count) }}</span>
        <button
          type="button"
          class="link"
          :disabled="at >= found.count"
          aria-label="The next page"
          data-next-page
          @click="at++"
        >
          ›
        </button>
        <span class="quiet">{{ formatCount(found.lines) }} {{ found.lines === 1 ? 'line' : 'lines' }}</span>
        <span v-if="found.size < wanted" class="text-honey" data-shrunk
          >type of {{ found.size }} points, so that all columns fit</span
        >
      </p>
      <ul v-if="found.beside.length > 1" class="quiet mt-1 text-xs" data-beside>
        <li v-for="(columns, i) in found.beside" :key="i">
          {{ i === 0 ? 'First page' : `Beside it, page ${i + 1}` }}: {{ columns.join(', ') }}
        </li>
      </ul>
    </template>
  </div>
</template>
