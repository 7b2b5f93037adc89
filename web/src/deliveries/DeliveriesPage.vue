<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Delivery } from '../api/client'
import { wordsOf } from '../api/problem'
import { useMe } from '../session/useMe'
import { nearest } from '../shell/nearest'
import DeliveryDialog from './DeliveryDialog.vue'
import DeliveryRow from './DeliveryRow.vue'
import OutsideField from './OutsideField.vue'
import { useDeliveries } from './useDeliveries'

/** What is sent by itself: one's own deliveries or, for administrators, everybody's. */
const { me } = useMe()
const { list } = useDeliveries()
const words = ref('')
const all = computed(() => list.data.value?.deliveries ?? [])
const shown = computed(() =>
  nearest(words.value, all.value, (d) => ({
    name: d.name,
    path: d.owner,
    meaning: `${d.words} ${d.pausedWhy ?? ''}`,
  })),
)
const changed = ref<Delivery | null>(null)
</script>

<template>
  <main class="overflow-auto px-10 py-6 max-md:px-4">
    <div class="max-w-5xl">
      <div class="flex flex-wrap items-baseline gap-x-6 gap-y-2">
        <h1 class="heading text-2xl">Deliveries</h1>
        <input
          v-if="all.length > 5"
          v-model="words"
          class="field ml-auto !w-64 py-1"
          type="search"
          placeholder="find one"
          aria-label="Find a delivery"
        />
      </div>
      <p class="quiet mt-1 mb-3">
        Views that come by themselves. Everybody gets what they may see. To make one, open a view and choose
        “Deliver …”.
      </p>
      <p v-if="list.data.value && !list.data.value.mails" class="mb-3 text-honey" role="status">
        No mail server is set up, so nothing can be mailed. Whoever runs Gavrik names one.
      </p>
      <p v-if="list.error.value" class="text-mulberry" role="alert">{{ wordsOf(list.error.value) }}</p>
      <ul v-else-if="list.data.value" class="border-t border-rule" data-deliveries>
        <DeliveryRow v-for="d in shown" :key="d.key" :delivery="d" @change="changed = d" />
        <li v-if="!all.length" class="py-6 font-serif">Nothing is delivered yet.</li>
        <li v-else-if="!shown.length" class="quiet py-4">No delivery says these words.</li>
      </ul>
      <OutsideField
        v-if="me?.administrator && list.data.value"
        :key="list.data.value.outside"
        :outside="list.data.value.outside"
      />
    </div>
    <DeliveryDialog
      v-if="changed"
      :view="changed.view"
      :kind="changed.kind"
      :name="changed.name"
      :delivery="changed"
      @close="changed = null"
    />
  </main>
</template>
