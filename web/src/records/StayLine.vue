<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, unwrap, type RecordSet } from '../api/client'
import { wordsOf } from '../api/problem'

/** Whether the records of a set are in memory or stay in their database. Administrators settle it. */
const props = defineProps<{ set: RecordSet; administrator: boolean }>()
const client = useQueryClient()
const stay = useMutation({
  mutationFn: (stays: boolean) =>
    unwrap(api.PUT('/api/staying/{set}', { params: { path: { set: props.set.key } }, body: { stays } })),
  onSuccess: () => client.invalidateQueries(),
})
const why = {
  here: '',
  server: 'The server was started so.',
  size: 'In memory they would take more than they may.',
}
</script>

<template>
  <p class="quiet mt-1" data-stay>
    <template v-if="set.stays"
      ><span class="text-slate" aria-hidden="true">◇</span> These stay in their database: each question asks
      it, and takes seconds where memory takes milliseconds.{{ ' ' }}
      <template v-if="set.settled">{{ why[set.settled] }}{{ ' ' }}</template></template
    >
    <template v-else>In memory.{{ ' ' }}</template>
    <button
      v-if="administrator && (!set.stays || set.settled === 'here')"
      class="link"
      :disabled="stay.isPending.value"
      @click="stay.mutate(!set.stays)"
    >
      {{
        stay.isPending.value
          ? 'Loading all records …'
          : set.stays
            ? 'Have them in memory'
            : 'Leave them in their database'
      }}
    </button>
  </p>
  <p v-if="stay.error.value" class="mt-1 text-mulberry" role="alert">{{ wordsOf(stay.error.value) }}</p>
</template>
