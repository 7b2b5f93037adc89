<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, unwrap } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { chosen } from '../intake/useIntake'
import { useMe } from '../session/useMe'
import { formatSize } from '../words'
import SetPanel from './SetPanel.vue'

/** The record sets: a list or a map of them, and what is in the one that is chosen. */
// What lays the map out is fetched for it alone.
const SetMap = defineAsyncComponent(() => import('./SetMap.vue'))
const client = useQueryClient()
const route = useRoute()
const router = useRouter()
const { me } = useMe()
const catalog = useQuery(queries.catalog())
const mapped = computed(() => route.query.map !== undefined)
// Whoever may describe them sees those, too, that are not offered.
const sets = computed(
  () => catalog.data.value?.sets.filter((s) => !s.hidden || me.value?.administrator) ?? [],
)
const set = computed(() => sets.value.find((s) => s.key === route.query.set) ?? sets.value[0])
const refresh = useMutation({
  mutationFn: () => unwrap(api.POST('/api/refresh')),
  onSuccess: () => client.invalidateQueries(),
})
/** A file that is dropped anywhere here is looked at. */
async function dropped(event: DragEvent) {
  const file = event.dataTransfer?.files[0]
  if (!file || !me.value?.saves) return
  event.preventDefault()
  chosen.value = { file, into: '' }
  await router.push({ name: 'bring-in' })
}
const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
</script>

<template>
  <main
    class="overflow-auto px-10 py-6 max-md:px-4"
    @dragover="me?.saves && $event.preventDefault()"
    @drop="dropped"
  >
    <div class="mb-4 flex flex-wrap items-baseline gap-x-6 gap-y-1">
      <h1 class="heading text-2xl">Records</h1>
      <span v-if="catalog.data.value" class="quiet"
        >as of {{ moment.format(new Date(catalog.data.value.asOf)) }}</span
      >
      <span class="ml-auto flex items-baseline gap-6">
        <RouterLink v-if="me?.saves" class="link" to="/bring-in" data-bring-in-file
          >Bring in a file</RouterLink
        >
        <RouterLink v-if="!mapped" class="link" :to="{ query: { map: null } }" data-map
          >How they link</RouterLink
        >
        <RouterLink v-else class="link" :to="{ query: {} }">List of fields</RouterLink>
        <button
          v-if="me?.administrator"
          class="button"
          :disabled="refresh.isPending.value"
          @click="refresh.mutate()"
        >
          {{ refresh.isPending.value ? 'Loading …' : 'Load again' }}
        </button></span
      >
    </div>
    <p v-if="catalog.error.value || refresh.error.value" class="mb-4 text-mulberry" role="alert">
      {{ wordsOf(catalog.error.value ?? refresh.error.value) }}
    </p>
    <p v-if="catalog.data.value?.stale" class="mb-4 border-l-4 border-honey bg-sheet px-4 py-2" role="status">
      {{ catalog.data.value.stale }}
    </p>
    <details
      v-if="catalog.data.value?.notices.length"
      class="mb-5 border-l-4 border-honey bg-sheet px-4 py-2"
    >
      <summary class="font-medium">
        {{
          catalog.data.value.notices.length === 1
            ? 'One thing could not be read as it is'
            : `${catalog.data.value.notices.length} things could not be read as they are`
        }}
      </summary>
      <ul class="mt-2 list-disc pl-5">
        <li v-for="notice in catalog.data.value.notices" :key="notice">{{ notice }}</li>
      </ul>
    </details>
    <p v-for="f in catalog.data.value?.followed ?? []" :key="f.source ?? ''" class="quiet mb-4" data-followed>
      <span :class="f.streamed ? 'text-pine' : 'text-honey'" aria-hidden="true">●</span>
      {{ f.source ? `${f.source}: ` : '' }}{{ f.how }} <span class="text-xs">since {{ f.since }}</span>
    </p>
    <details
      v-if="catalog.data.value?.reshaped.length"
      class="mb-5 border-l-4 border-slate bg-sheet px-4 py-2"
      data-reshaped
    >
      <summary class="font-medium">
        {{
          catalog.data.value.reshaped.length === 1
            ? 'One thing has changed in the database'
            : `${catalog.data.value.reshaped.length} things have changed in the database`
        }}
      </summary>
      <ul class="mt-2 list-disc pl-5">
        <li v-for="what in catalog.data.value.reshaped" :key="what">{{ what }}</li>
      </ul>
    </details>
    <p v-if="catalog.data.value?.withheld.length" class="quiet mb-4" data-withheld>
      Kept from you: {{ catalog.data.value.withheld.join(', ') }}. Ask an administrator if you need them.
    </p>
    <SetMap v-if="mapped && sets.length" :sets="sets" />
    <div v-else class="grid grid-cols-[220px_minmax(0,1fr)] gap-10 max-md:grid-cols-1 max-md:gap-6">
      <ul aria-label="Record sets">
        <li v-for="s in sets" :key="s.key">
          <RouterLink
            class="flex w-full items-baseline gap-2 border-b border-rule py-2 text-left"
            :class="[s.key === set?.key && 'font-semibold text-mulberry', s.hidden && 'quiet']"
            :aria-current="s.key === set?.key"
            :to="{ query: { set: s.key } }"
            replace
          >
            <span class="min-w-0 truncate" :title="s.label">{{ s.label }}</span><span
              v-if="s.hidden"
              class="text-xs"
              >not offered</span
            ><span class="ml-auto"
              ><span
                v-if="s.stays"
                class="mr-1 text-slate"
                title="These stay in their database"
                aria-label="stays in its database"
                >◇</span
              >{{ formatSize(s) }}</span
            >
          </RouterLink>
        </li>
      </ul>
      <SetPanel v-if="set" :key="set.key" :set="set" :sets="sets" :administrator="!!me?.administrator" />
    </div>
  </main>
</template>
