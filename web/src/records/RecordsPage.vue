<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, unwrap } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { useMe } from '../session/useMe'
import { formatCount } from '../words'

const client = useQueryClient()
const { me } = useMe()
const catalog = useQuery(queries.catalog())
const chosen = ref('')
const set = computed(
  () => catalog.data.value?.sets.find((s) => s.key === chosen.value) ?? catalog.data.value?.sets[0],
)
const fields = useQuery(computed(() => queries.fields(set.value?.key ?? '')))
const own = computed(() => fields.data.value?.fields.filter((f) => !f.way.length) ?? [])
const refresh = useMutation({
  mutationFn: () => unwrap(api.POST('/api/refresh')),
  onSuccess: () => client.invalidateQueries(),
})
const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
const types: Record<string, string> = {
  text: 'text',
  whole: 'whole number',
  decimal: 'number',
  money: 'money',
  percent: 'percent',
  date: 'date',
  datetime: 'date and time',
  duration: 'duration',
  yesno: 'yes or no',
  picture: 'picture',
}
</script>

<template>
  <main class="overflow-auto px-10 py-6 max-md:px-4">
    <div class="mb-4 flex items-baseline gap-6">
      <h1 class="heading text-2xl">Records</h1>
      <span v-if="catalog.data.value" class="quiet"
        >as of {{ moment.format(new Date(catalog.data.value.asOf)) }}</span
      >
      <button
        v-if="me?.administrator"
        class="button ml-auto"
        :disabled="refresh.isPending.value"
        @click="refresh.mutate()"
      >
        {{ refresh.isPending.value ? 'Loading …' : 'Load again' }}
      </button>
    </div>
    <p v-if="catalog.error.value || refresh.error.value" class="mb-4 text-mulberry" role="alert">
      {{ wordsOf(catalog.error.value ?? refresh.error.value) }}
    </p>
    <p v-if="catalog.data.value?.stale" class="mb-4 border-l-4 border-honey bg-sheet px-4 py-2" role="status">
      {{ catalog.data.value.stale }}
    </p>
    <details
      v-if="catalog.data.value?.notices.length"
      class="mb-5 border-l-4 border-honey bg-sheet px-4 py-2"
    >
      <summary class="font-medium">
        {{ catalog.data.value.notices.length }} things in the database are not offered
      </summary>
      <ul class="mt-2 list-disc pl-5">
        <li v-for="notice in catalog.data.value.notices" :key="notice">{{ notice }}</li>
      </ul>
    </details>
    <p v-if="catalog.data.value?.withheld.length" class="quiet mb-4" data-withheld>
      Kept from you: {{ catalog.data.value.withheld.join(', ') }}. Ask an administrator if you need them.
    </p>
    <div class="grid grid-cols-[260px_minmax(0,1fr)] gap-10 max-md:grid-cols-1 max-md:gap-6">
      <ul aria-label="Record sets">
        <li v-for="s in catalog.data.value?.sets" :key="s.key">
          <button
            class="flex w-full items-baseline justify-between border-b border-rule py-2 text-left"
            :class="s.key === set?.key && 'font-semibold text-mulberry'"
            :aria-current="s.key === set?.key"
            @click="chosen = s.key"
          >
            <span>{{ s.label }}</span><span>{{ formatCount(s.count) }}</span>
          </button>
        </li>
      </ul>
      <section v-if="set">
        <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h2 class="heading text-xl">{{ set.label }}</h2>
          <span class="quiet">{{ set.grain }}</span>
          <RouterLink class="link ml-auto" :to="`/new/${set.key}`">Start a view</RouterLink>
        </div>
        <p v-if="set.withheld.length" class="quiet mt-2" data-withheld>
          Kept from you: {{ set.withheld.join(', ') }}. Ask an administrator if you need them.
        </p>
        <table class="mt-3 w-full table-fixed border-collapse text-left">
          <thead>
            <tr class="border-b border-rule text-mute">
              <th class="w-[42%] py-1.5 font-medium max-md:w-[55%]">Field</th>
              <th class="w-28 font-medium">Type</th>
              <th class="w-24 text-right font-medium">Filled</th>
              <th class="pl-8 font-medium max-md:hidden">For example</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="f in own" :key="f.path" class="border-b border-rule align-baseline">
              <td class="py-1.5 pr-4">
                <b class="font-medium">{{ f.label }}</b><span v-if="f.meaning" class="quiet block">{{
                  f.meaning
                }}</span>
              </td>
              <td class="pr-4">{{ types[f.type] }}</td>
              <td class="text-right">{{ Math.floor(f.filled * 1000) / 10 }} %</td>
              <td class="quiet truncate pl-8 max-md:hidden">{{ f.samples.join(' · ') }}</td>
            </tr>
          </tbody>
        </table>
      </section>
    </div>
  </main>
</template>
