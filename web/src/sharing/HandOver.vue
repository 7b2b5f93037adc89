<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import {} from '../api/client'
import { queries } from '../api/queries'
import { useMe } from '../session/useMe'

/** Hands a view to another owner, who is asked for and then confirmed. */
const emit = defineEmits<{ hand: [to: number] }>()
const { me } = useMe()
const names = useQuery(queries.names())
const others = computed(() => (names.data.value?.people ?? []).filter((p) => p.id !== me.value?.id))
const to = ref(0)
const chosen = computed(() => others.value.find((p) => p.id === to.value))
</script>

<template>
  <p class="flex items-baseline gap-3 text-[13px]">
    <label class="flex items-baseline gap-2"
      >It belongs to you. Hand it over to
      <select v-model.number="to" class="field !w-44 py-0.5" aria-label="Hand over to" data-hand-to>
        <option :value="0">nobody</option>
        <option v-for="p in others" :key="p.id" :value="p.id">{{ p.name }}</option>
      </select></label
    >
    <button v-if="chosen" type="button" class="link" data-hand @click="emit('hand', chosen.id)">
      hand it over now
    </button>
  </p>
</template>
