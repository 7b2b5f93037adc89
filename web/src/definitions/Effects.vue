<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Definition } from '../api/client'
import { queries, type Made } from '../api/queries'
import { wordsOf } from '../api/problem'

/** What a changed definition would do to every view that uses it, before it is saved. */
const props = defineProps<{ definition: Definition; draft: Made }>()
const { data, error } = useQuery(computed(() => queries.effects(props.definition, props.draft)))
</script>

<template>
  <section data-effects>
    <h2 class="heading mb-1 text-base">What would change</h2>
    <p v-if="error" class="text-mulberry" role="alert">{{ wordsOf(error) }}</p>
    <p v-else-if="data && !data.effects.length && !data.hidden" class="quiet">No view uses it, so nothing.</p>
    <table v-else-if="data" class="w-full border-collapse">
      <tbody v-for="e in data.effects" :key="e.view.key" class="border-b border-edge">
        <tr>
          <th class="pt-2 text-left font-medium" colspan="3">
            <RouterLink class="link" :to="`/v/${e.view.key}`">{{ e.view.name }}</RouterLink>{{ ' ' }}
            <span v-if="e.same" class="quiet font-normal">its totals stay the same</span>
          </th>
        </tr>
        <tr v-if="e.fault">
          <td class="pb-2 text-mulberry" colspan="3">It would not run any more: {{ e.fault }}</td>
        </tr>
        <tr v-for="m in e.same ? [] : e.totals" :key="m.label">
          <td class="py-0.5">{{ m.label }}</td>
          <td class="w-36 text-right" :class="m.before !== m.after && 'quiet line-through'">
            {{ m.before }}
          </td>
          <td class="w-36 text-right" :class="m.before !== m.after && 'font-medium text-honey'">
            {{ m.after }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="data?.hidden" class="quiet mt-2">
      {{ data.hidden }} {{ data.hidden === 1 ? 'view' : 'views' }} of others
      {{ data.hidden === 1 ? 'uses' : 'use' }} it, too.
    </p>
  </section>
</template>
