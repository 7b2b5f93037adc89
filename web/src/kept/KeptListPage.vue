<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, unwrap } from '../api/client'
import { forget, queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { useMe } from '../session/useMe'
import { formatCount } from '../words'
import KeepingForm from './KeepingForm.vue'
import { measuresOf, trendOf } from './trend'
import TrendLine from './TrendLine.vue'

/** What was kept of a view: each as it was, two of them compared, and a total through all of them. */
const props = defineProps<{ view: string }>()
const client = useQueryClient()
const { me } = useMe()
const list = useQuery(queries.keptOf(props.view))
const view = useQuery(queries.view(props.view))
const all = computed(() => list.data.value?.kept ?? [])
const measures = computed(() => measuresOf(all.value))
const chosen = ref(' ')
const measure = computed(() => measures.value.find((m) => m.name === chosen.value) ?? measures.value[0])
const points = computed(() => (measure.value ? trendOf(all.value, measure.value.name) : []))
const figureOf = (key: string) => points.value.find((p) => p.key === key)?.text ?? ''
const letGo = useMutation({
  mutationFn: (key: string) => unwrap(api.DELETE('/api/kept/{key}', { params: { path: { key } } })),
  onSuccess: () => forget(client, 'kept results'),
})
const asked = ref('')
const trouble = computed(() => list.error.value ?? view.error.value ?? letGo.error.value)
</script>

<template>
  <main class="overflow-auto px-10 py-6 max-md:px-4">
    <div class="max-w-5xl">
      <h1 class="heading text-2xl">Kept results</h1>
      <p class="quiet mt-1 mb-4">
        of
        <RouterLink class="link" :to="`/v/${props.view}`">{{
          view.data.value?.name ?? 'the view'
        }}</RouterLink>: what it said then, which does not change any more.
      </p>
      <p v-if="trouble" class="text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
      <KeepingForm v-if="me?.saves" :view="props.view" />
      <section v-if="points.length > 1" class="mb-6" aria-label="A total through all of them">
        <label class="mb-2 flex items-baseline gap-2"
          ><span class="quiet">through all of them</span>
          <select v-model="chosen" class="field !w-auto py-0.5" name="measure" data-measure>
            <option v-for="m in measures" :key="m.name" :value="m.name">{{ m.label }}</option>
          </select></label
        >
        <TrendLine :points="points" :label="measure?.label ?? ''" />
      </section>
      <table v-if="all.length" class="w-full" data-kept-list>
        <thead class="text-left text-mute">
          <tr class="border-b border-rule">
            <th class="py-1.5 pr-4 font-medium">As of</th>
            <th class="py-1.5 pr-4 text-right font-medium">{{ measure?.label }}</th>
            <th class="py-1.5 pr-4 font-medium">Kept by</th>
            <th class="py-1.5"><span class="sr-only">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(k, i) in all"
            :key="k.key"
            class="border-b border-rule align-baseline"
            :data-kept="k.key"
          >
            <td class="py-2 pr-4">
              <RouterLink v-if="!k.why" class="heading hover:underline" :to="`/k/${k.key}`">{{
                k.asOfText
              }}</RouterLink>
              <span v-else>{{ k.asOfText }}</span>
              <span v-if="k.name" class="ml-3">{{ k.name }}</span>
              <span v-if="k.why" class="block text-[13px] text-honey">{{ k.why }}</span>
            </td>
            <td class="py-2 pr-4 text-right tabular-nums">{{ figureOf(k.key) }}</td>
            <td class="quiet py-2 pr-4">{{ k.by }}<template v-if="k.byPlan">, by plan</template></td>
            <td class="py-2 text-right text-[13px] whitespace-nowrap">
              <template v-if="!k.why">
                <RouterLink class="link" :to="`/k/${k.key}/differences`" data-with-now
                  >what changed since</RouterLink
                >
                <RouterLink
                  v-if="all[i + 1] && !all[i + 1]!.why"
                  class="link ml-4"
                  :to="{ path: `/k/${all[i + 1]!.key}/differences`, query: { with: k.key } }"
                  >against the one before</RouterLink
                >
              </template>
              <template v-if="k.mine">
                <button v-if="asked !== k.key" class="quiet ml-4" @click="asked = k.key">let go …</button>
                <button
                  v-else
                  class="link ml-4"
                  :disabled="letGo.isPending.value"
                  data-let-go
                  @click="letGo.mutate(k.key)"
                >
                  let go of it for good
                </button>
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else-if="list.data.value" class="font-serif">
        Nothing is kept yet. Open the view and choose “Keep this result …”.
      </p>
      <p v-if="all.length" class="quiet mt-3 text-[13px]">{{ formatCount(all.length) }} kept.</p>
    </div>
  </main>
</template>
