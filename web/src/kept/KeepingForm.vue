<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { api, unwrap, type Schemas } from '../api/client'
import { forget, queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import RuleField from '../recurring/RuleField.vue'

/** One's plan by which results of a view are kept, as a sentence; changed in place. */
const props = defineProps<{ view: string }>()
const client = useQueryClient()
const got = useQuery(queries.keeping(props.view))
const open = ref(false)
const plan = ref<Schemas['KeepingPlan']>({ when: { every: 'month', date: -1, at: '23:00' }, hold: 12 })
watch(
  () => got.data.value?.plan,
  (now) => now && (plan.value = { ...now }),
  { immediate: true },
)
const at = { params: { path: { key: props.view } } }
const again = () => forget(client, 'keeping')
const keep = useMutation({
  mutationFn: () => unwrap(api.PUT('/api/views/{key}/keeping', { ...at, body: plan.value })),
  onSuccess: () => {
    open.value = false
    return again()
  },
})
const end = useMutation({
  mutationFn: () => unwrap(api.DELETE('/api/views/{key}/keeping', at)),
  onSuccess: () => {
    open.value = false
    return again()
  },
})
</script>

<template>
  <section v-if="got.data.value" class="mb-5" aria-label="Kept by itself" data-keeping>
    <p v-if="got.data.value.why" class="text-honey" data-keeping-paused>
      It is not kept any more: {{ got.data.value.why }}
    </p>
    <p v-if="!open">
      <template v-if="got.data.value.plan"
        >You have it kept <span class="font-serif">{{ got.data.value.words }}</span><template
          v-if="got.data.value.stand"
          >, {{ got.data.value.stand }}</template
        >; the last {{ got.data.value.plan.hold }} are held on to.</template
      ><template v-else>It is kept when somebody says so.</template>
      <button class="link ml-3" data-change-keeping @click="open = true">
        {{ got.data.value.plan ? 'change' : 'have it kept by itself' }} …
      </button>
    </p>
    <form v-else class="max-w-xl space-y-3 border border-rule bg-sheet p-4" @submit.prevent="keep.mutate()">
      <RuleField v-model="plan.when">Keep it</RuleField>
      <label class="flex items-baseline gap-2"
        >hold on to the last
        <input
          v-model.number="plan.hold"
          class="field !w-20 py-0.5"
          type="number"
          min="1"
          max="1000"
          required
          name="hold"
        />
        of these</label
      >
      <p v-if="keep.error.value ?? end.error.value" class="text-mulberry" role="alert">
        {{ wordsOf(keep.error.value ?? end.error.value) }}
      </p>
      <p class="flex justify-end gap-3">
        <button v-if="got.data.value.plan" type="button" class="link mr-auto" @click="end.mutate()">
          Keep no more by itself
        </button>
        <button type="button" class="button" @click="open = false">Cancel</button>
        <button type="submit" class="button button-act" :disabled="keep.isPending.value" data-keep-plan>
          Keep it so
        </button>
      </p>
    </form>
  </section>
</template>
