<script setup lang="ts">
import { defineAsyncComponent, ref, useTemplateRef } from 'vue'
import type { ViewSummary } from '../api/client'
import { wordsOf } from '../api/problem'
import Grip from '../shell/Grip.vue'
import { useReorder } from '../shell/useReorder'
import FavoriteRow from './FavoriteRow.vue'
import { useFavorites } from './useFavorites'

/** The favorites, arranged by their grips; shared ones can be put away. */
const { favorites, shown, away, move, keep, putAway, drop, trouble } = useFavorites()
const TakeViews = defineAsyncComponent(() => import('../takeaway/TakeViews.vue'))
const taken = ref<ViewSummary | null>(null)
const awayShown = ref(false)
const own = (v: ViewSummary) => v.mine && !v.everyones

const list = useTemplateRef('list')
const reorder = useReorder(
  list,
  () => shown.value.length,
  (from, to) => {
    const view = shown.value[from]
    if (view) move(view.key, to)
  },
  keep,
)
</script>

<template>
  <section aria-labelledby="favorites">
    <div class="flex items-baseline border-b border-rule pb-2 text-mute">
      <h2 id="favorites" class="font-medium">Favorites</h2>
      <button
        v-if="away.length"
        class="ml-auto text-xs underline decoration-dotted underline-offset-2"
        :aria-expanded="awayShown"
        data-away
        @click="awayShown = !awayShown"
      >
        {{ away.length }} put away
      </button>
    </div>
    <p v-if="trouble" class="py-2 text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
    <ul v-if="shown.length" ref="list">
      <li
        v-for="(v, i) in shown"
        :key="v.key"
        class="group/line relative flex border-b border-rule"
        :class="reorder.dragged.value === i && 'bg-mulberry-wash opacity-70'"
        :data-place="i"
        :data-favorite="v.key"
      >
        <Grip
          v-if="shown.length > 1"
          class="absolute top-1/2 -left-7 -translate-y-1/2 opacity-0 group-hover/line:opacity-100 focus:opacity-100 max-md:hidden"
          :reorder="reorder"
          :index="i"
          :name="`${v.name}, favorite ${i + 1}`"
        />
        <FavoriteRow :view="v" />
        <button
          class="quiet absolute top-1/2 -right-10 -translate-y-1/2 px-1 opacity-0 max-md:hidden group-hover/line:opacity-100 focus:opacity-100"
          :aria-label="`Take ${v.name} away`"
          title="Take away: as a spreadsheet, a file, on paper"
          data-take-favorite
          @click="taken = v"
        >
          ↧
        </button>
        <button
          v-if="own(v)"
          class="quiet absolute top-1/2 -right-5 -translate-y-1/2 px-1 opacity-0 max-md:hidden group-hover/line:opacity-100 focus:opacity-100"
          :aria-label="`Take ${v.name} off your desk`"
          title="No favorite any more"
          @click="drop.mutate(v.key)"
        >
          ×
        </button>
        <button
          v-else
          class="quiet absolute top-1/2 -right-5 -translate-y-1/2 px-1 opacity-0 max-md:hidden group-hover/line:opacity-100 focus:opacity-100"
          :aria-label="`Put ${v.name} away`"
          title="Put away from my desk; others keep it"
          data-put-away
          @click="putAway.mutate({ key: v.key, away: true })"
        >
          ×
        </button>
      </li>
    </ul>
    <TakeViews v-if="taken" :views="[taken]" @close="taken = null" />
    <p v-if="!shown.length && favorites.data.value" class="quiet py-4">
      Views that you or your team keep at hand stand here. Start one, save it, and make it a favorite.
    </p>
    <ul v-if="awayShown && away.length" class="mt-4 opacity-80" aria-label="Put away">
      <li v-for="v in away" :key="v.key" class="flex items-baseline gap-4 border-b border-rule py-2">
        <span class="min-w-0 flex-1 truncate"
          >{{ v.name }} <span class="quiet">by {{ v.owner }}</span></span
        >
        <button class="link text-[13px]" @click="putAway.mutate({ key: v.key, away: false })">
          bring back
        </button>
      </li>
    </ul>
  </section>
</template>
