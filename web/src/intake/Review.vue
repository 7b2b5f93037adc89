<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, unwrap, type RecordSet, type Upload } from '../api/client'
import { wordsOf } from '../api/problem'
import type { Share } from '../sharing/shares'
import { formatCount } from '../words'
import Differences from './Differences.vue'
import RejectList from './RejectList.vue'
import ShareWith from './ShareWith.vue'
import { nameOf } from './recipe'
import type { Intake } from './useIntake'

/** A file that was read: what would come in or change, before anything is written. */
const props = defineProps<{ upload: Upload; target?: RecordSet; intake: Intake }>()
const client = useQueryClient()
const router = useRouter()
const outcome = computed(() => props.upload.outcome!)
const differences = computed(() => outcome.value.differences)
const name = ref(nameOf(props.upload.file))
const one = ref('')
const shares = ref<readonly Share[]>([])
const missing = ref<'leave' | 'remove' | 'replace'>(outcome.value.differences ? 'leave' : 'replace')
const bring = useMutation({
  mutationFn: () =>
    unwrap(
      api.POST('/api/uploads/{id}/bring-in', {
        params: { path: { id: props.upload.id } },
        body: props.target
          ? { missing: missing.value }
          : { name: name.value, one: one.value, shares: [...shares.value] },
      }),
    ),
  onSuccess: async ({ set }) => {
    await client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'upload' })
    await router.push({ name: 'records', query: { set } })
  },
})
const idle = computed(
  () =>
    !!differences.value &&
    missing.value !== 'replace' &&
    !differences.value.new &&
    !differences.value.changed &&
    !(missing.value === 'remove' && differences.value.missing),
)
</script>

<template>
  <section class="mb-6 border-t-3 border-pine bg-sheet px-5 py-4" aria-label="What comes in" data-review>
    <p class="mb-3">
      <b class="font-medium">{{ formatCount(outcome.rows) }} rows are read</b
      ><template v-if="outcome.aside"
        >, {{ formatCount(outcome.aside) }} {{ outcome.aside === 1 ? 'is' : 'are' }} kept aside</template
      >. {{ target ? `${target.label} are still as they were.` : 'They are not records yet.' }}
    </p>
    <RejectList v-if="upload.rejects?.length" class="mb-3" :rejects="upload.rejects" :count="outcome.aside" />
    <template v-if="target">
      <Differences v-if="differences" v-model="missing" :differences="differences" :target="target" />
      <p v-else class="mb-3">
        It takes the place of all {{ formatCount(outcome.before) }} {{ target.many }}: {{ outcome.whole }}.
      </p>
      <p v-if="outcome.asideBefore" class="mb-3 text-honey">
        {{
          outcome.asideBefore === 1
            ? 'The row of the file before that is still kept aside goes away.'
            : `The ${formatCount(outcome.asideBefore)} rows of the file before that are still kept aside go away.`
        }}
      </p>
    </template>
    <template v-else>
      <div class="mb-3 grid grid-cols-[18rem_18rem_1fr] gap-x-6 gap-y-2 max-md:grid-cols-1">
        <label
          ><span class="quiet mb-0.5 block">They are called</span
          ><input v-model="name" class="field" name="name" maxlength="60" /></label
        ><label
          ><span class="quiet mb-0.5 block">and one of them</span
          ><input
            v-model="one"
            class="field"
            name="one"
            maxlength="60"
            placeholder="as the singular is" /></label
        ><ShareWith v-model="shares" />
      </div>
    </template>
    <p v-if="bring.error.value" class="mb-3 text-mulberry" role="alert">{{ wordsOf(bring.error.value) }}</p>
    <p class="flex items-baseline gap-4">
      <button
        class="button button-act"
        data-bring
        :disabled="bring.isPending.value || idle || !outcome.rows || (!target && !name.trim())"
        @click="bring.mutate()"
      >
        {{ bring.isPending.value ? 'Bringing it in …' : target ? 'Change the records' : 'Bring it in' }}
      </button>
      <span v-if="idle" class="quiet">Nothing would change.</span>
    </p>
  </section>
</template>
