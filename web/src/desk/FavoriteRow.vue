<script setup lang="ts">
import type { ViewSummary } from '../api/client'
import { groundOf, openingOf } from '../library/marks'

defineProps<{ view: ViewSummary }>()
</script>

<template>
  <li class="border-b border-rule">
    <RouterLink :to="openingOf(view)" class="group grid grid-cols-[4px_1fr_auto_7rem] items-center gap-4 py-3">
      <span class="h-9 rounded-xs" :class="view.mark ? groundOf(view.mark) : view.everyones ? 'bg-mulberry' : 'bg-slate'" aria-hidden="true"></span>
      <span class="min-w-0">
        <span class="flex items-baseline gap-3">
          <b class="heading shrink-0 text-base group-hover:underline">{{ view.name }}</b>
          <span v-if="view.about" class="truncate" :title="view.about">{{ view.about }}</span>
        </span>
        <span class="block truncate" :class="view.broken ? 'text-mulberry' : 'quiet'" :title="view.brief">{{ view.brief }}</span>
      </span>
      <span class="text-right">
        <b class="block text-base font-semibold">{{ view.figure }}</b>
        <span class="quiet block text-xs">{{ view.figureOf }}</span>
      </span>
      <span class="quiet text-right text-xs"><span v-if="view.asks" class="block text-mulberry">asks {{ view.asks }}</span>{{ view.template ? 'template' : view.shared ? 'for everyone' : 'only me' }}</span>
    </RouterLink>
  </li>
</template>
