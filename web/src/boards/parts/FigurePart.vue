<script setup lang="ts">
import { RouterLink, type RouteLocationRaw } from 'vue-router'
import type { Schemas } from '../../api/client'

/** One total of all records, with its change against what the view compares with. */
defineProps<{ figure: Schemas['BoardFigure']; to?: RouteLocationRaw; counted: string }>()
</script>

<template>
  <component
    :is="to ? RouterLink : 'div'"
    :to="to"
    class="flex size-full flex-col justify-center px-3 pb-2"
    data-figure
  >
    <b class="truncate text-3xl font-semibold">{{ figure.text || 'none' }}</b>
    <span class="quiet truncate text-xs"
      >{{ figure.label
      }}<template v-if="!counted.endsWith(` ${figure.label}`)">, {{ counted }}</template></span
    >
    <template v-if="figure.against">
      <span class="truncate text-[13px]" data-change
        ><b class="font-medium">{{
          [figure.change, figure.percent].filter(Boolean).join(', ') || 'no change'
        }}</b>
        {{ figure.sign > 0 ? '▲' : figure.sign < 0 ? '▼' : '' }}</span
      >
      <span class="quiet truncate text-xs">{{ figure.against }}: {{ figure.other || 'none' }}</span>
    </template>
  </component>
</template>
