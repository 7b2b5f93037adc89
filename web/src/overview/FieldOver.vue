<script setup lang="ts">
import { computed } from 'vue'
import type { FieldOverview } from '../api/client'
import { formatCount } from '../words'

/** One field, looked over: how full, how many different values, how they are spread, what is odd. */
const props = defineProps<{ field: FieldOverview }>()
const most = computed(() => Math.max(1, ...props.field.bins.map((b) => b.kept)))
const share = (n: number) => (props.field.records ? (100 * n) / props.field.records : 0)
const percent = (n: number) => {
  const s = share(n)
  // Neither all nor nothing is said of what only comes near.
  if (s > 99.9 && s < 100) return 'over 99.9 %'
  if (s > 0 && s < 0.1) return 'under 0.1 %'
  return `${Math.round(s * 10) / 10} %`
}
</script>

<template>
  <tr class="break-inside-avoid border-b border-rule align-top" :data-over="field.path">
    <td class="py-2 pr-4">
      <b class="font-medium">{{ field.label }}</b>
      <span class="quiet block text-xs">{{ field.typeName }}</span>
      <span v-if="field.meaning" class="quiet block text-xs">{{ field.meaning }}</span>
      <span v-for="r in field.remarks" :key="r.words" class="mt-1 block text-honey" :data-remark="r.kind">{{
        r.words
      }}</span>
    </td>
    <td class="py-2 pr-6">
      <span class="block text-right">{{ percent(field.filled) }}</span>
      <span class="block h-1 bg-bar"
        ><span class="block h-1 bg-pine" :style="{ width: `${share(field.filled)}%` }"></span
      ></span>
    </td>
    <td class="py-2 pr-6 text-right">{{ field.type === 'picture' ? '' : formatCount(field.distinct) }}</td>
    <td class="py-2 pr-6">
      <template v-if="field.bins.length > 1"
        ><span
          class="flex h-9 items-end border-b border-edge"
          role="img"
          :aria-label="`From ${field.smallest} to ${field.largest}`"
        >
          <span
            v-for="b in field.bins"
            :key="b.label"
            class="mx-[0.5px] min-w-0 flex-1 bg-pine"
            :style="{ height: b.kept ? `max(1px, ${(100 * b.kept) / most}%)` : '0' }"
            :title="`${b.label}: ${formatCount(b.kept)}`"
          ></span></span
        ><span class="quiet flex justify-between gap-2 text-xs"
          ><span>{{ field.smallest }}</span
          ><span class="text-right">{{ field.largest }}</span></span
        ></template
      ><span v-else-if="field.smallest" class="quiet text-xs">{{ field.smallest }}</span>
    </td>
    <td class="py-2 max-md:hidden">
      <span v-for="c in field.commonest" :key="c.value" class="flex items-center gap-2 text-xs leading-5"
        ><span class="w-36 truncate print:w-auto print:flex-1" :title="c.label">{{ c.label }}</span
        ><span class="h-1.5 flex-1 print:hidden"
          ><span
            class="block h-1.5 bg-slate opacity-60"
            :style="{ width: `${(100 * c.records) / Math.max(1, field.filled)}%` }"
          ></span></span
        ><span class="w-16 text-right">{{ formatCount(c.records) }}</span></span
      >
      <span v-if="!field.commonest.length && field.distinct" class="quiet text-xs"
        >each stands on one record alone</span
      >
    </td>
  </tr>
</template>
