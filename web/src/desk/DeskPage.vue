<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { offeredSets, queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { useDropDraft } from '../work/unsaved/useDropDraft'
import { formatRecent } from '../words'
import FavoriteList from './FavoriteList.vue'
import FavoriteRow from './FavoriteRow.vue'
import { openingOf } from '../library/marks'
import ToLookAt from '../rounds/ToLookAt.vue'
import StartList from './StartList.vue'
import { useFinding } from './useFinding'

/** Where the day starts: what is kept at hand, what was left unsaved, what to start from. */
const catalog = useQuery(queries.catalog())
const views = useQuery(queries.views())
const unsaved = useQuery(queries.drafts())
const drafts = computed(() => unsaved.data.value?.drafts ?? [])
const forget = useDropDraft()
const typed = ref('')
const finding = useFinding(typed)
const { asked } = finding
/** Record sets in the order of the question, the nearest first. */
const sets = computed(() => {
  const all = offeredSets(catalog.data.value?.sets)
  if (!asked.value || !finding.ready.value) return all
  return [...finding.sets.value.keys()].flatMap((key) => all.find((s) => s.key === key) ?? [])
})
const templates = computed(() => (views.data.value?.views ?? []).filter((v) => v.template))
const trouble = computed(() => catalog.error.value ?? views.error.value ?? finding.error.value)
</script>

<template>
  <main class="overflow-auto">
    <section class="border-b border-rule bg-sheet px-10 py-6 max-md:px-4 max-md:py-4">
      <h1 class="heading mb-3 text-2xl">What do you need to know?</h1>
      <input
        v-model="typed"
        class="field max-w-2xl py-2 font-serif text-lg"
        type="search"
        placeholder="claims by route …"
        aria-label="Find a view or a record set by its words"
      />
    </section>
    <p v-if="trouble" class="px-10 py-6" role="alert">{{ wordsOf(trouble) }}</p>
    <div
      v-else
      class="grid grid-cols-[290px_minmax(0,1fr)] gap-10 px-10 py-6 max-md:grid-cols-1 max-md:gap-6 max-md:px-4"
    >
      <div class="max-md:order-last">
        <StartList
          :sets="sets"
          :why="asked ? finding.sets.value : undefined"
          :loading="!catalog.data.value"
        />
      </div>
      <section v-if="asked" aria-labelledby="nearest">
        <h2 id="nearest" class="border-b border-rule pb-2 font-medium text-mute">The nearest views</h2>
        <ul v-if="finding.views.value.length" data-nearest>
          <li v-for="{ view, why } in finding.views.value" :key="view.key" class="flex border-b border-rule">
            <FavoriteRow :view="view"
              ><span class="block truncate text-xs text-pine" :title="why" data-why-found>{{
                why
              }}</span></FavoriteRow
            >
          </li>
        </ul>
        <p v-else-if="finding.ready.value" class="quiet py-4">
          No saved view says any of these words. Start one from the record set whose rows you want to count.
        </p>
      </section>
      <div v-else>
        <ToLookAt />
        <FavoriteList />
        <section v-if="drafts.length" class="mt-8" aria-labelledby="drafts">
          <h2 id="drafts" class="border-b border-rule pb-2 font-medium text-mute">
            Picked up where you left
          </h2>
          <ul>
            <li v-for="d in drafts" :key="d.id" class="flex items-baseline gap-2 border-b border-rule py-2">
              <RouterLink
                :to="{ path: d.place, query: { at: d.state } }"
                class="min-w-0 flex-1 truncate hover:underline"
                >{{ d.title }}</RouterLink
              >
              <span class="text-xs whitespace-nowrap text-honey"
                >not saved, {{ formatRecent(new Date(d.at)) }}</span
              >
              <button
                class="quiet px-1"
                :aria-label="`Drop the draft of ${d.title}`"
                title="Drop this draft"
                @click="forget(d.id)"
              >
                ×
              </button>
            </li>
          </ul>
        </section>
        <section v-if="templates.length" class="mt-8" aria-labelledby="templates">
          <h2 id="templates" class="border-b border-rule pb-2 font-medium text-mute">
            Templates: each begins one of your own
          </h2>
          <ul>
            <li v-for="t in templates" :key="t.key">
              <RouterLink
                :to="openingOf(t)"
                class="group flex items-baseline gap-3 border-b border-rule py-1.5"
                ><b class="min-w-0 flex-1 truncate font-medium group-hover:underline" :title="t.brief"
                  >{{ t.name }}<span class="ml-3 font-normal">{{ t.about }}</span></b
                ><span v-if="t.asks" class="text-xs whitespace-nowrap text-mulberry"
                  >asks {{ t.asks }}</span
                ></RouterLink
              >
            </li>
          </ul>
        </section>
      </div>
    </div>
  </main>
</template>
