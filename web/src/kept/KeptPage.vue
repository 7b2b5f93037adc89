<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useTitle } from '@vueuse/core'
import { computed } from 'vue'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import KeptResultView from './KeptResultView.vue'

/** A result as it was. */
const props = defineProps<{ kept: string }>()
const got = useQuery(queries.kept(props.kept))
useTitle(
  computed(() =>
    got.data.value ? `${got.data.value.viewName}, ${got.data.value.asOfText} · Gavrik` : 'Gavrik',
  ),
  { restoreOnUnmount: () => 'Gavrik' },
)
</script>

<template>
  <KeptResultView v-if="got.data.value" :kept="got.data.value" />
  <main v-else-if="got.error.value" class="p-10" role="alert">
    <h1 class="heading mb-2 text-2xl">This cannot be shown</h1>
    <p class="mb-4">{{ wordsOf(got.error.value) }}</p>
    <RouterLink class="link" to="/">Go to your desk</RouterLink>
  </main>
</template>
