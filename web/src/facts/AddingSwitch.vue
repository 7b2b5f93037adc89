<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, unwrap } from '../api/client'
import { queries } from '../api/queries'

/** Says whether analysts, too, may add facts. Only for administrators. */
const client = useQueryClient()
const now = useQuery(queries.factAdding())
const settle = useMutation({
  mutationFn: (analysts: boolean) => unwrap(api.PUT('/api/fact-adding', { body: { analysts } })),
  onSettled: () => client.invalidateQueries({ queryKey: queries.factAdding().queryKey }),
})
</script>

<template>
  <label v-if="now.data.value" class="quiet flex items-baseline gap-2"
    ><input
      type="checkbox"
      class="accent-mulberry"
      name="analysts-add"
      :checked="now.data.value.analysts"
      @change="settle.mutate(!now.data.value.analysts)"
    />analysts may add facts, too, to any record set</label
  >
</template>
