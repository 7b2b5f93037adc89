<script setup lang="ts">
import type { ViewSummary } from '../api/client'
import { groundOf, openingOf } from '../library/marks'

/** A view as the desk shows it: what it says, its headline number, who sees it. */
defineProps<{ view: ViewSummary }>()
</script>

<template>
  <RouterLink
    :to="openingOf(view)"
    class="group grid min-w-0 flex-1 grid-cols-[4px_minmax(0,1fr)_auto_7rem] items-center gap-4 py-3 max-md:grid-cols-[4px_minmax(0,1fr)_auto] max-md:gap-2.5"
  >
    <span
      class="h-9 rounded-xs"
      :class="view.mark ? groundOf(view.mark) : view.everyones ? 'bg-mulberry' : 'bg-slate'"
      aria-hidden="true"
    ></span>
    <span class="min-w-0">
      <span class="flex items-baseline gap-3 max-md:block">
        <b class="heading shrink-0 text-base group-hover:underline">{{ view.name }}</b>
        <span v-if="view.about" class="truncate max-md:block" :title="view.about">{{ view.about }}</span>
      </span>
      <span
        class="block truncate max-md:line-clamp-2 max-md:whitespace-normal"
        :class="view.broken ? 'text-mulberry' : 'quiet'"
        :title="view.brief"
        >{{ view.brief }}</span
      >
      <slot />
    </span>
    <span class="text-right">
      <span v-if="view.kind === 'board'" class="quiet">board</span>
      <b class="block text-base font-semibold">{{ view.figure }}</b>
      <span class="quiet block text-xs">{{ view.figureOf }}</span>
    </span>
    <span class="quiet truncate text-right text-xs max-md:hidden" :title="view.audience"
      ><span v-if="view.least" class="block text-pine">totals only</span
      ><span v-if="view.asks && !view.least" class="block text-mulberry">asks {{ view.asks }}</span
      >{{ view.template ? 'template' : view.owned ? view.audience : `by ${view.owner}` }}</span
    >
  </RouterLink>
</template>
