<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Document } from '../../api/client'
import { queries } from '../../api/queries'
import { wordsOf } from '../../api/problem'
import { formatCount } from '../../words'

/** What a value that is drawn from other records looks like: in words, the largest ones, how many have none. */
const props = defineProps<{ view: Document; made: string; brief?: boolean }>()
const { data, error } = useQuery(
  computed(() => ({
    ...queries.madeValue(props.view, props.made),
    placeholderData: props.brief ? undefined : keepPreviousData,
  })),
)
</script>

<template>
  <span v-if="brief" class="text-honey" data-preview>
    {{
      data?.samples
        .map((s) => s.value)
        .filter((v, i, all) => all.indexOf(v) === i)
        .join(', ')
    }}
  </span>
  <div v-else data-linked-preview>
    <p v-for="f in data?.faults ?? []" :key="f" class="mt-3 text-mulberry" role="alert">{{ f }}</p>
    <p v-if="error" class="mt-3 text-mulberry" role="alert">{{ wordsOf(error) }}</p>
    <template v-if="data?.field">
      <p class="mt-4 border-l-2 border-honey pl-2 font-serif" data-words>{{ data.words }}.</p>
      <table class="mt-2 w-full border-collapse text-[13px]">
        <tbody>
          <tr v-for="(s, i) in data.samples" :key="i" class="border-b border-rule">
            <td class="max-w-72 truncate py-0.5 pr-4">{{ s.record }}</td>
            <td class="py-0.5 font-medium" :class="data.field.numeric && 'text-right'">{{ s.value }}</td>
          </tr>
        </tbody>
      </table>
      <p class="quiet mt-2 text-[13px]">
        {{
          data.blank
            ? `${formatCount(data.blank)} of ${formatCount(data.records)} have none.`
            : `All ${formatCount(data.records)} have one.`
        }}
      </p>
      <p v-for="n in data.notes" :key="n" class="quiet mt-1 text-[13px]">{{ n }}</p>
    </template>
  </div>
</template>
