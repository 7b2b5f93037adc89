<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed, shallowRef } from 'vue'
import {
  api,
  unwrap,
  type Beside,
  type Bucket,
  type Calculated,
  type Definition,
  type Document,
  type Field,
  type LinkBy,
  type LinkedValue,
} from '../api/client'
import { forget, type Made } from '../api/queries'
import { Problem, wordsOf } from '../api/problem'
import BesideEditor from '../bench/editors/BesideEditor.vue'
import BucketEditor from '../bench/editors/BucketEditor.vue'
import FormulaEditor from '../bench/editors/FormulaEditor.vue'
import LinkedValueEditor from '../bench/editors/LinkedValueEditor.vue'
import { sameDocument } from '../work/sameDocument'
import { useFields } from '../bench/useFields'
import { provideFlush } from '../bench/editors/flush'
import { useHeld } from '../shell/useHeld'
import Effects from './Effects.vue'

/** One definition at work: its editor, what a change would do to the views, and saving it. */
const props = defineProps<{
  records: string
  setLabel: string
  kind: 'calculate' | 'bucket' | 'linked' | 'beside'
  /** The records that a linked value is drawn from. */
  source?: LinkBy
  definition: Definition | null
}>()
const emit = defineEmits<{ done: [key: string | null]; renew: [] }>()
const client = useQueryClient()
const { fields: every, byPath } = useFields(computed(() => props.records))
const fields = computed(() => every.value.filter((f) => f.path !== props.definition?.key))
const bare = computed<Document>(() => ({ gavrik: 1, records: props.records, columns: [] }))
const taken = (key: string) => byPath.value.has(key) && key !== props.definition?.key

const calculated = shallowRef<Calculated | null>(null)
const bucket = shallowRef<Bucket | null>(null)
const linked = shallowRef<LinkedValue | null>(null)
const beside = shallowRef<Beside | null>(null)
const made = computed(() => calculated.value ?? bucket.value ?? linked.value ?? beside.value)
const draft = computed<Made>(() => ({
  calculated: calculated.value ?? undefined,
  bucket: bucket.value ?? undefined,
  linked: linked.value ?? undefined,
  beside: beside.value ?? undefined,
}))
const before = computed<Calculated | Bucket | LinkedValue | Beside | null>(
  () => held.value?.calculated ?? held.value?.bucket ?? held.value?.linked ?? held.value?.beside ?? null,
)
const kinds = {
  calculate: 'Calculated field',
  bucket: 'Bucket',
  linked: 'Value of linked records',
  beside: 'Beside other records',
}
const changed = computed(
  (): boolean => made.value !== null && (!before.value || !sameDocument(made.value, before.value)),
)
const { held, newer } = useHeld<Definition>(
  () => props.definition,
  () => changed.value,
  () => emit('renew'),
)
const flush = provideFlush()
/** Saves once what was typed last is worked out. */
async function saveNow() {
  await flush()
  if (made.value) save.mutate()
}
function refresh() {
  void forget(client, 'definitions', 'fields', 'views', 'view', 'favorites')
}
const save = useMutation({
  mutationFn: () =>
    props.definition
      ? unwrap(
          api.PUT('/api/definitions/{set}/{key}', {
            params: { path: { set: props.records, key: props.definition.key } },
            body: { ...draft.value, base: held.value?.version ?? 0 },
          }),
        )
      : unwrap(api.POST('/api/definitions', { body: { records: props.records, ...draft.value } })),
  onSuccess: (d) => {
    refresh()
    emit('done', d.key)
  },
})
const remove = useMutation({
  mutationFn: (anyway: boolean) =>
    unwrap(
      api.DELETE('/api/definitions/{set}/{key}', {
        params: { path: { set: props.records, key: props.definition!.key }, query: { anyway } },
      }),
    ),
  onSuccess: () => {
    refresh()
    emit('done', null)
  },
})
/** Deleting it was refused, because something uses it; the refusal says what. */
const inUse = computed(() => remove.error.value instanceof Problem && remove.error.value.status === 409)
const trouble = computed(() => save.error.value ?? remove.error.value)
const age = (field: Field) => {
  bucketTrouble.value = `Calculate the age of ${field.label.toLowerCase()} first, as a definition of its own; then put that into bands.`
}
const bucketTrouble = shallowRef('')
</script>

<template>
  <section
    class="flex min-h-0 flex-col border-l border-rule bg-sheet"
    :aria-label="definition ? 'Definition' : 'New definition'"
  >
    <div class="min-h-0 flex-1 overflow-auto p-6">
      <p class="quiet mb-3 text-xs">
        {{ kinds[kind] }} of {{ setLabel
        }}<template v-if="definition">
          · version {{ definition.version }}, saved by {{ definition.savedBy }}</template
        >
      </p>
      <p v-if="newer" class="mb-3 border-l-2 border-honey pl-2" role="status" data-newer>
        {{ newer.savedBy }} saved version {{ newer.version }} meanwhile. What you typed is kept here;
        <button class="link" @click="emit('renew')">look at theirs</button> in its place.
      </p>
      <p v-if="definition?.broken" class="mb-3 text-mulberry" role="alert">{{ definition.words }}</p>
      <template v-if="every.length">
        <FormulaEditor
          v-if="kind === 'calculate'"
          sharing
          :document="bare"
          :made="held?.calculated ?? null"
          :fields="fields"
          :taken="taken"
          @change="calculated = $event"
        />
        <LinkedValueEditor
          v-else-if="kind === 'linked' && source"
          sharing
          :document="bare"
          :made="held?.linked ?? null"
          :source="source"
          :taken="taken"
          @change="linked = $event"
        />
        <BesideEditor
          v-else-if="kind === 'beside'"
          sharing
          :document="bare"
          :made="held?.beside ?? null"
          :fields="fields"
          :by-path="byPath"
          :taken="taken"
          @change="beside = $event"
        />
        <BucketEditor
          v-else-if="kind === 'bucket'"
          sharing
          :document="bare"
          :made="held?.bucket ?? null"
          :fields="fields"
          :taken="taken"
          @change="bucket = $event"
          @age="age"
        />
      </template>
      <p v-if="bucketTrouble" class="mt-3 text-honey">{{ bucketTrouble }}</p>
      <Effects v-if="definition && changed" class="mt-5" :definition="definition" :draft="draft" />
      <p v-else-if="definition?.usedIn.length" class="mt-5">
        <span class="quiet">Used in </span>
        <template v-for="(v, i) in definition.usedIn" :key="v.key"
          ><template v-if="i">, </template
          ><RouterLink class="link" :to="`/v/${v.key}`">{{ v.name }}</RouterLink></template
        >
        <span v-if="definition.hidden" class="quiet"> and {{ definition.hidden }} of others</span>
      </p>
    </div>
    <footer class="flex items-center gap-4 border-t border-rule px-6 py-3">
      <span v-if="trouble" class="text-mulberry" role="alert">{{ wordsOf(trouble) }}</span>
      <span v-else-if="definition && !definition.editable" class="quiet"
        >It belongs to {{ definition.owner }}; only they and administrators can change it.</span
      >
      <button
        v-if="definition?.editable && inUse"
        class="link whitespace-nowrap text-mulberry"
        data-anyway
        @click="remove.mutate(true)"
      >
        Delete anyway
      </button>
      <button v-else-if="definition?.editable" class="link" data-delete @click="remove.mutate(false)">
        Delete
      </button>
      <button class="button ml-auto whitespace-nowrap" @click="emit('done', null)">Close</button>
      <button
        class="button button-act whitespace-nowrap"
        data-save
        :disabled="!changed || (definition !== null && !definition.editable) || save.isPending.value"
        @click="saveNow"
      >
        {{ definition ? 'Save for all views' : 'Define' }}
      </button>
    </footer>
  </section>
</template>
