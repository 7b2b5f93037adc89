<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, unwrap } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { stayOnScreen } from '../router'
import { formatCount } from '../words'
import DropPlace from './DropPlace.vue'
import FieldTable from './FieldTable.vue'
import FileLines from './FileLines.vue'
import OnTheWay from './OnTheWay.vue'
import ProgressLine from './ProgressLine.vue'
import RejectList from './RejectList.vue'
import Review from './Review.vue'
import { sizeOf } from './recipe'
import { chosen, useIntake } from './useIntake'

/** A file becomes records: it is sent, looked at, read to the side, and brought in. */
const props = defineProps<{ file?: string }>()
const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const id = computed(() => props.file ?? '')
const into = computed(() => (typeof route.query.into === 'string' ? route.query.into : ''))
const intake = useIntake(id, into)
const { upload, sending, received, look, looking, reading, stopping } = intake
const now = computed(() => upload.data.value)
const catalog = useQuery(queries.catalog())
const target = computed(() => catalog.data.value?.sets.find((s) => s.key === into.value))
const trouble = ref('')

/** Sends a file: a new one, or the rest of the one that is here in part. */
async function send(file: File) {
  trouble.value = ''
  const u = now.value
  if (u?.state === 'arriving') {
    if (file.name !== u.file || file.size !== u.size) {
      trouble.value = `That is another file. Choose ${u.file} (${sizeOf(u.size)}) again, or give it up.`
      return
    }
    return sending.mutate({ file, upload: u })
  }
  try {
    const fresh = await intake.begin(file)
    stayOnScreen()
    await router.replace({ name: 'bring-in', params: { file: fresh.id }, query: route.query })
    sending.mutate({ file, upload: fresh })
  } catch (problem) {
    trouble.value = wordsOf(problem)
  }
}
watch(
  chosen,
  (given) => {
    if (!given) return
    chosen.value = null
    void send(given.file)
  },
  { immediate: true },
)
onBeforeUnmount(intake.stopSending)
async function drop() {
  await unwrap(api.DELETE('/api/uploads/{id}', { params: { path: { id: id.value } } })).catch(() => undefined)
  await client.invalidateQueries({ queryKey: ['uploads'] })
  await router.replace({ name: 'records', query: into.value ? { set: into.value } : {} })
}
// What was stopped by hand needs no word.
const lost = computed(() => {
  const error = sending.error.value
  return error && !(error instanceof DOMException) ? wordsOf(error) : ''
})
const misses = computed(() => look.value?.aside ?? 0)
const open = computed(
  () => look.value?.fields.filter((f, i) => f.open.length && !look.value?.recipe.fields[i]?.out).length ?? 0,
)
</script>

<template>
  <main class="overflow-auto px-10 py-6 max-md:px-4">
    <div class="mb-4 flex flex-wrap items-baseline gap-x-6 gap-y-1">
      <h1 class="heading text-2xl">
        {{ target ? `A later file for ${target.label.toLowerCase()}` : 'Bring in a file' }}
      </h1>
      <span v-if="now" class="quiet min-w-0 truncate"
        ><b class="font-medium text-ink">{{ now.file }}</b
        >, {{ sizeOf(now.size) }}</span
      >
      <button v-if="now" class="link ml-auto" data-give-up @click="drop">Give it up</button>
    </div>
    <p v-if="trouble || upload.error.value" class="mb-4 text-mulberry" role="alert">
      {{ trouble || wordsOf(upload.error.value) }}
    </p>
    <template v-if="!id">
      <DropPlace large @chosen="send" />
      <OnTheWay />
    </template>
    <template v-else-if="now?.state === 'arriving'">
      <ProgressLine
        v-if="sending.isPending.value"
        :done="received"
        :of="now.size"
        words="is on its way"
        @stop="intake.stopSending()"
      />
      <div v-else>
        <p class="mb-3" role="status">
          {{ lost }}
          {{ sizeOf(now.received) }} of {{ sizeOf(now.size) }} are here. Choose the file again, and the rest
          is sent.
        </p>
        <DropPlace @chosen="send" />
      </div>
    </template>
    <template v-else-if="now">
      <p v-if="looking.error.value" class="mb-4 text-mulberry" role="alert" data-look-trouble>
        {{ wordsOf(looking.error.value) }}
      </p>
      <p v-if="!look && looking.isPending.value" class="quiet" role="status">Looking at the file …</p>
      <Review
        v-if="now.state === 'read' && look && now.outcome && !reading.isPending.value"
        :upload="now"
        :target="target"
        :intake="intake"
      />
      <template v-if="look">
        <ProgressLine
          v-if="now.state === 'reading' && !now.lost"
          :done="now.bytes"
          :of="now.size"
          :words="`is read: ${formatCount(now.rows)} rows so far`"
          :waiting="stopping.isPending.value"
          @stop="stopping.mutate()"
        />
        <p
          v-if="now.failure || now.lost"
          class="mb-4 border-l-4 border-mulberry bg-sheet px-4 py-2"
          role="alert"
        >
          The file was not read: {{ now.lost ? 'the server that read it is gone.' : now.failure }} Nothing has
          changed; it can be read again.
        </p>
        <FileLines :look="look" :busy="looking.isPending.value" @read-as="intake.readAs" />
        <FieldTable :intake="intake" :look="look" :updating="!!into" :sets="catalog.data.value?.sets ?? []" />
        <RejectList
          v-if="look.rejects.length && now.state !== 'read'"
          class="mt-4"
          :rejects="look.rejects"
          :count="look.aside"
          folded
        />
        <p v-if="now.state !== 'reading' || now.lost" class="mt-5 flex flex-wrap items-baseline gap-4">
          <button
            class="button"
            :class="now.state !== 'read' && 'button-act'"
            data-read
            :disabled="reading.isPending.value || looking.isPending.value"
            @click="reading.mutate()"
          >
            {{ now.state === 'read' ? 'Read it again so' : 'Read the file' }}
          </button>
          <span class="quiet"
            >{{
              look.whole
                ? `${formatCount(look.rows)} rows`
                : `the first and some other rows were looked at, ${formatCount(look.rows)} of them`
            }}<template v-if="misses"
              >, {{ formatCount(misses) }} of them
              {{ misses === 1 ? 'does not fit and is' : 'do not fit and are' }} kept aside</template
            ><template v-if="open"
              >; {{ open === 1 ? 'one field comes' : `${open} fields come` }} in as text until you
              choose</template
            >. Nothing is written yet.</span
          >
        </p>
        <p v-if="reading.error.value" class="mt-3 text-mulberry" role="alert">
          {{ wordsOf(reading.error.value) }}
        </p>
      </template>
    </template>
  </main>
</template>
