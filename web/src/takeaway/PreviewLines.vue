<script setup lang="ts">
import { formatCount } from '../words'

/** The first lines of a file, as they will stand in it. */
defineProps<{
  headings: readonly string[]
  numeric: readonly boolean[]
  lines: readonly (readonly string[])[]
  all: number
}>()
</script>

<template>
  <div
    class="overflow-x-auto border border-rule bg-paper"
    tabindex="0"
    role="region"
    aria-label="The first lines"
  >
    <table class="w-full border-collapse text-xs" data-preview>
      <thead>
        <tr class="border-b border-ink text-left">
          <th
            v-for="(h, i) in headings"
            :key="i"
            class="px-2 py-1 font-medium whitespace-nowrap"
            :class="numeric[i] && 'text-right'"
          >
            {{ h }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(line, i) in lines" :key="i" class="border-b border-rule">
          <td
            v-for="(text, j) in line"
            :key="j"
            class="max-w-56 truncate px-2 py-1 tabular-nums"
            :class="numeric[j] && 'text-right'"
          >
            {{ text }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="all > lines.length" class="quiet px-2 py-1 text-xs">
      … and {{ formatCount(all - lines.length) }} more
    </p>
  </div>
</template>
