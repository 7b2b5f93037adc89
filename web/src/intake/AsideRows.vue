<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { api, unwrap, type RecordSet } from '../api/client'
import { wordsOf } from '../api/problem'
import { queries } from '../api/queries'
import { formatCount } from '../words'

/** Rows of a file that were kept aside: mended here and brought in, or taken away as a file. */
const props = defineProps<{ set: RecordSet }>()
const client = useQueryClient()
const aside = useQuery(computed(() => queries.aside(props.set.key)))
const rows = computed(() => aside.data.value?.rows ?? [])
const texts = reactive(new Map<number, string>())
const told = ref('')
const changed = computed(() => rows.value.filter((r) => (texts.get(r.id) ?? r.content) !== r.content))
const cut = (text: string) => text.endsWith(' … (cut)')
const mend = useMutation({
  mutationFn: (drop: boolean) =>
    unwrap(
      api.POST('/api/brought-in/{set}/aside', {
        params: { path: { set: props.set.key } },
        body: {
          drop: drop || undefined,
          rows: (drop ? rows.value : changed.value).map((r) => ({
            id: r.id,
            line: r.line,
            content: texts.get(r.id) ?? r.content,
          })),
        },
      }),
    ),
  onSuccess: async ({ in: n }, drop) => {
    const tried = changed.value.length
    told.value = drop
      ? 'They are thrown away.'
      : n === tried
        ? `${formatCount(n)} ${n === 1 ? 'row came' : 'rows came'} in.`
        : `${formatCount(n)} of ${formatCount(tried)} came in; the others still do not fit.`
    texts.clear()
    await client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'me' })
  },
})
</script>

<template>
  <section class="mt-3" aria-label="Rows kept aside" data-aside-rows>
    <p class="quiet text-[13px]">
      Mend a row where it stands, or take all of them away as a file, mend them there, and bring it in as a
      later file. The columns: {{ aside.data.value?.headings.join(', ') }}
    </p>
    <p v-if="told" class="my-1 text-pine" role="status">{{ told }}</p>
    <p v-if="mend.error.value || aside.error.value" class="my-1 text-mulberry" role="alert">
      {{ wordsOf(mend.error.value ?? aside.error.value) }}
    </p>
    <ul class="mt-1 max-h-80 overflow-auto border-y border-rule">
      <li v-for="r in rows" :key="r.id" class="grid grid-cols-[4.5rem_1fr] gap-x-3 border-b border-rule py-1">
        <span class="quiet text-[13px]">line {{ r.line }}</span>
        <span>
          <span class="block text-[13px] text-mulberry">{{ r.reason }}</span>
          <input
            class="field py-0.5 font-mono text-[13px]"
            :value="texts.get(r.id) ?? r.content"
            :disabled="cut(r.content)"
            :aria-label="`Line ${r.line}`"
            spellcheck="false"
            @input="texts.set(r.id, ($event.target as HTMLInputElement).value)"
          />
        </span>
      </li>
    </ul>
    <p class="mt-2 flex flex-wrap items-baseline gap-x-5">
      <button
        class="button button-act"
        data-mend
        :disabled="!changed.length || mend.isPending.value"
        @click="mend.mutate(false)"
      >
        Bring in what is mended
      </button>
      <a class="link" :href="`/api/brought-in/${set.key}/aside.csv`" download data-aside-file
        >Take them away as a file</a
      >
      <button class="link" :disabled="mend.isPending.value || !rows.length" @click="mend.mutate(true)">
        Throw {{ rows.length < (aside.data.value?.count ?? 0) ? 'these' : 'them' }} away
      </button>
    </p>
  </section>
</template>
