<script setup lang="ts">
import type { Schemas } from '../api/client'
import { formatCount } from '../words'

/** The first rows that were kept aside: where they stand, why, and what stands there. */
defineProps<{ rejects: Schemas['Reject'][]; count: number; folded?: boolean }>()
</script>

<template>
  <details :open="!folded" data-rejects>
    <summary class="mb-1">{{ folded ? 'Rows that do not fit' : 'Kept aside' }}</summary>
    <ul
      class="max-h-44 overflow-auto border-y border-rule text-[13px]"
      tabindex="0"
      aria-label="Rows kept aside"
    >
      <li v-for="r in rejects" :key="r.line + r.reason" class="grid grid-cols-[5rem_24rem_1fr] gap-3 py-0.5">
        <span class="quiet">line {{ r.line }}</span
        ><span>{{ r.reason }}</span
        ><code class="truncate" :title="r.content">{{ r.content }}</code>
      </li>
      <li v-if="count > rejects.length" class="quiet py-0.5">
        and {{ formatCount(count - rejects.length) }} more
      </li>
    </ul>
  </details>
</template>
