<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, body } from '../api/client'
import { wordsOf } from '../api/problem'
import Bench from './Bench.vue'

const props = defineProps<{ set?: string }>()
const route = useRoute()
const viewKey = computed(() => (route.name === 'view' ? String(route.params.key) : ''))
const catalog = useQuery({ queryKey: ['catalog'], queryFn: () => body(api.GET('/api/catalog')) })
const saved = useQuery({
  queryKey: ['view', viewKey],
  queryFn: () => body(api.GET('/api/views/{key}', { params: { path: { key: viewKey.value } } })),
  enabled: () => viewKey.value !== '',
})
const set = computed(() => catalog.data.value?.sets.find((s) => s.key === (saved.data.value?.document.records ?? props.set)))
const trouble = computed(() => catalog.error.value ?? saved.error.value)
const missing = computed(() => catalog.data.value && !set.value && (saved.data.value ?? !viewKey.value))
</script>

<template>
  <Bench v-if="set && (!viewKey || saved.data.value)" :set="set" :saved="saved.data.value ?? null" :place="route.path" />
  <main v-else-if="trouble || missing" class="p-10" role="alert">
    <h1 class="heading mb-2 text-2xl">This cannot be opened</h1>
    <p class="mb-4">{{ trouble ? wordsOf(trouble) : `The record set “${saved.data.value?.document.records ?? props.set}” is not there. It may have been renamed in the database.` }}</p>
    <RouterLink class="link" to="/">Go to your desk</RouterLink>
  </main>
</template>
