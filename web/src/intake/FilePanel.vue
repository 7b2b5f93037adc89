<script setup lang="ts">
import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, unwrap, type BroughtIn, type RecordSet } from '../api/client'
import { Problem, wordsOf } from '../api/problem'
import { queries } from '../api/queries'
import type { Share } from '../sharing/shares'
import { formatCount, formatDateTime } from '../words'
import AsideRows from './AsideRows.vue'
import ShareWith from './ShareWith.vue'
import { acceptedFiles } from './recipe'
import { chosen } from './useIntake'

/** Of records that came as a file: which, whose they are, who sees them, and what was kept aside. */
const props = defineProps<{ set: RecordSet; file: BroughtIn }>()
const client = useQueryClient()
const router = useRouter()
const asides = ref(false)
const sharing = ref(false)
const removing = ref(false)
const everything = () => client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'me' })
const at = computed(() => ({ params: { path: { set: props.set.key } } }))
const share = useMutation({
  mutationFn: (shares: readonly Share[]) =>
    unwrap(api.PUT('/api/brought-in/{set}/shares', { ...at.value, body: { shares: [...shares] } })),
  onSuccess: everything,
})
const names = useQuery(computed(() => ({ ...queries.names(), enabled: sharing.value })))
const hand = useMutation({
  mutationFn: (to: number) => unwrap(api.PUT('/api/brought-in/{set}/owner', { ...at.value, body: { to } })),
  onSuccess: everything,
})
const remove = useMutation({
  mutationFn: (anyway: boolean) =>
    unwrap(
      api.DELETE('/api/brought-in/{set}', { params: { path: { set: props.set.key }, query: { anyway } } }),
    ),
  onSuccess: async () => {
    await router.replace({ query: {} })
    await everything()
  },
})
const breaks = computed(() => remove.error.value instanceof Problem && remove.error.value.status === 409)
async function later(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  chosen.value = { file, into: props.set.key }
  await router.push({ name: 'bring-in', query: { into: props.set.key } })
}
</script>

<template>
  <div class="mt-2 border-l-4 border-slate bg-sheet px-4 py-2" data-came-as-file>
    <p class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
      <span
        >{{ file.by }} brought them in as <b class="font-medium">{{ file.file }}</b>,
        {{ formatDateTime(file.at) }}</span
      ><span class="quiet">{{ file.owner ? `${file.owner}’s` : 'nobody’s own' }}; {{ file.audience }}</span>
    </p>
    <p v-if="file.mine" class="mt-1 flex flex-wrap items-baseline gap-x-5 gap-y-1">
      <label class="link cursor-pointer focus-within:outline-2"
        >Bring in a later file<input
          type="file"
          class="sr-only"
          :accept="acceptedFiles"
          data-later-file
          @change="later" /></label
      ><button v-if="file.aside" class="link" data-asides @click="asides = !asides">
        {{ file.aside === 1 ? 'One row' : `${formatCount(file.aside)} rows` }} kept aside</button
      ><button class="link" data-share @click="sharing = !sharing">Who sees them</button
      ><button class="link" data-remove-set @click="removing = !removing">Take them away</button>
    </p>
    <div v-if="sharing" class="mt-2">
      <ShareWith :model-value="file.shares" @update:model-value="share.mutate" />
      <label class="mt-1 flex items-baseline gap-2 text-[13px]"
        >Hand them over to
        <select
          class="field !w-auto py-0.5"
          data-hand-set
          @change="hand.mutate(Number(($event.target as HTMLSelectElement).value))"
        >
          <option value="0">nobody</option>
          <option v-for="p in names.data.value?.people" :key="p.id" :value="p.id">{{ p.name }}</option>
        </select></label
      >
      <p v-if="share.error.value || hand.error.value" class="text-mulberry" role="alert">
        {{ wordsOf(share.error.value ?? hand.error.value) }}
      </p>
    </div>
    <p v-if="removing" class="mt-2" role="alert" data-removing>
      <template v-if="breaks"
        >{{ wordsOf(remove.error.value) }}
        <button class="link" data-remove-anyway @click="remove.mutate(true)">
          Take them away all the same
        </button></template
      ><template v-else
        >{{ formatCount(set.count) }} {{ set.many }} go. The file is not kept here.
        <button class="link" data-remove-now :disabled="remove.isPending.value" @click="remove.mutate(false)">
          Take them away
        </button>
        <span v-if="remove.error.value" class="text-mulberry">{{
          wordsOf(remove.error.value)
        }}</span></template
      >
    </p>
    <AsideRows v-if="asides && file.mine" :set="set" />
  </div>
</template>
