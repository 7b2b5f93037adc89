<script setup lang="ts">
import { useMutation, useQuery } from '@tanstack/vue-query'
import { useTitle } from '@vueuse/core'
import { ref } from 'vue'
import { api, unwrap, type View } from '../api/client'
import { queries } from '../api/queries'
import FrozenLedger from '../kept/FrozenLedger.vue'

/** A view that is shared for its totals: its groups are read, and nothing beneath them is there. */
const props = defineProps<{ view: View }>()
const view = ref(props.view)
const said = useQuery(queries.totalsSentence(props.view))
const taking = ref(false)
const favorite = useMutation({
  mutationFn: async () =>
    (await unwrap(
      api.PUT('/api/views/{key}/favorite', {
        params: { path: { key: view.value.key } },
        body: { on: !view.value.mine },
      }),
    )) as View,
  onSuccess: (now) => (view.value = now),
})
useTitle(`${props.view.name} · Gavrik`, { restoreOnUnmount: () => 'Gavrik' })
</script>

<template>
  <main class="flex min-h-0 flex-col" data-totals-view>
    <section class="border-b border-rule border-l-4 border-l-pine bg-paper px-5 pt-3 pb-3 max-md:px-3">
      <div class="mb-1 flex flex-wrap items-center gap-x-4 gap-y-1">
        <h1 class="truncate text-[15px] font-semibold" data-title :title="view.description">
          {{ view.name }}
        </h1>
        <span class="text-pine" data-totals-only
          >its totals, without records; groups of fewer than {{ view.least }} are held back</span
        >
        <span class="quiet text-xs">by {{ view.owner }} · v{{ view.version }}</span>
        <div class="ml-auto flex gap-2">
          <button class="button" :aria-pressed="view.mine" @click="favorite.mutate()">
            {{ view.mine ? '★ On your desk' : 'On my desk' }}
          </button>
          <button class="button" data-take-totals @click="taking = true">Take away</button>
        </div>
      </div>
      <p class="font-serif text-lg" data-sentence>{{ said.data.value }}</p>
    </section>
    <FrozenLedger
      v-model:taking="taking"
      :frozen="{ totals: view.key }"
      :document="view.document"
      :view="view.key"
      :name="view.name"
      :records="false"
    />
  </main>
</template>
