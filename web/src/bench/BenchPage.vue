<script setup lang="ts">
import { watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import TotalsView from '../totals/TotalsView.vue'
import Bench from './Bench.vue'
import { useViewSource } from './useViewSource'

const route = useRoute()
const router = useRouter()
const { opened, totals, trouble, elsewhere, open } = useViewSource()
const text = (value: unknown) => (typeof value === 'string' ? value : '')
void open(
  {
    place: route.path,
    key: route.name === 'view' ? text(route.params.key) : '',
    state: text(route.query.at),
    from: text(route.query.from),
  },
  text(route.params.set),
  route.query.blank !== undefined,
)
watch(elsewhere, (to) => void router.replace(to))
</script>

<template>
  <TotalsView v-if="totals" :view="totals" />
  <Bench v-else-if="opened" :source="opened" />
  <main v-else-if="trouble" class="p-10" role="alert">
    <h1 class="heading mb-2 text-2xl">This cannot be opened</h1>
    <p class="mb-4">{{ trouble }}</p>
    <RouterLink class="link" to="/">Go to your desk</RouterLink>
  </main>
</template>
