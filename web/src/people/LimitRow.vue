<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { queries } from '../api/queries'
import { usualLeast } from '../sharing/shares'
import type { Limit, SetFields } from './usePeople'

/** What a group's members see of one record set. */
const props = defineProps<{ set: SetFields; limit: Limit }>()
const emit = defineEmits<{ change: [limit: Limit] }>()
const client = useQueryClient()
const views = useQuery(queries.views())
const fitting = computed(() => (views.data.value?.views ?? []).filter((v) => v.set === props.set.key))
const what = computed(() =>
  props.limit.hidden ? 'none' : props.limit.totals ? 'totals' : props.limit.rule ? 'rule' : 'all',
)
const choosing = ref(false)
const kept = computed(() => new Set(props.limit.fields ?? []))
const words = computed(() =>
  props.set.fields
    .filter((f) => kept.value.has(f.key))
    .map((f) => f.label)
    .join(', '),
)

function choose(event: Event) {
  const value = (event.target as HTMLSelectElement).value
  choosing.value = value === 'rule'
  if (value !== 'rule')
    emit('change', {
      ...props.limit,
      hidden: value === 'none',
      totals: value === 'totals' ? usualLeast : undefined,
      rule: undefined,
      words: undefined,
    })
}
async function rule(event: Event) {
  const key = (event.target as HTMLSelectElement).value
  const view = await client.fetchQuery(queries.view(key))
  choosing.value = false
  emit('change', {
    ...props.limit,
    hidden: false,
    totals: undefined,
    rule: view.document,
    words: `as “${view.name}” keeps them`,
  })
}
function toggle(key: string) {
  const next = new Set(kept.value)
  if (!next.delete(key)) next.add(key)
  emit('change', { ...props.limit, fields: [...next] })
}
</script>

<template>
  <tr class="border-b border-rule align-baseline" :data-limit="set.key">
    <td class="py-1.5 font-medium">{{ set.label }}</td>
    <td class="pr-6">
      <select
        class="field !w-52 py-0.5"
        :class="what === 'all' && 'quiet'"
        :aria-label="`Records of ${set.label} that members see`"
        :value="choosing ? 'rule' : what"
        @change="choose"
      >
        <option value="all">all</option>
        <option value="rule">those that a rule keeps</option>
        <option value="totals">none, but totals of shared views</option>
        <option value="none">none</option>
      </select>
      <label v-if="limit.totals" class="quiet mt-1 flex items-baseline gap-1.5 text-[13px]"
        >of groups of at least<input
          class="field !w-16 py-0.5"
          type="number"
          min="2"
          max="1000"
          :value="limit.totals"
          data-least
          @change="
            emit('change', {
              ...limit,
              totals: Math.max(2, Number(($event.target as HTMLInputElement).value) || usualLeast),
            })
          "
      /></label>
      <select
        v-if="choosing"
        class="field mt-1 !w-64 py-0.5"
        aria-label="View whose filter is the rule"
        data-rule-view
        @change="rule"
      >
        <option value="">the filter of which view?</option>
        <option v-for="v in fitting" :key="v.key" :value="v.key">{{ v.name }}</option>
      </select>
      <span v-else-if="limit.rule" class="block pt-1 font-serif" data-rule>{{ limit.words }}</span>
    </td>
    <td>
      <details :class="limit.hidden && 'quiet'">
        <summary class="cursor-pointer" :class="!words && 'quiet'">{{ words || 'none' }}</summary>
        <div class="grid grid-cols-3 gap-x-4 py-1">
          <label v-for="f in set.fields" :key="f.key" class="flex items-baseline gap-1.5 truncate text-[13px]"
            ><input
              type="checkbox"
              class="accent-mulberry"
              :checked="kept.has(f.key)"
              @change="toggle(f.key)"
            />{{ f.label }}<span v-if="f.sensitive" class="text-honey" title="Sensitive">●</span></label
          >
        </div>
      </details>
    </td>
  </tr>
</template>
