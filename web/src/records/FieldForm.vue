<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Field, FieldWords, LoadedField } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import FormatEditor from '../bench/editors/FormatEditor.vue'
import { formatCount } from '../words'
import { said, saidOrNone, withField } from './describing'
import Origin from './Origin.vue'
import SayTrouble from './SayTrouble.vue'
import type { Describing } from './useDescribing'
import WordInput from './WordInput.vue'
import { useMe } from '../session/useMe'

/** What people say about one field: each word with where it came from. */
const props = defineProps<{ set: string; field: LoadedField; current: Field; describing: Describing }>()
const emit = defineEmits<{ done: [] }>()
const { description, saying, marking } = props.describing
const loaded = props.field
const now = description.data.value?.said.fields?.[loaded.key] ?? {}
const by = (property: string) => description.data.value?.by[`fields.${loaded.key}.${property}`]

const label = ref(now.label ?? loaded.label)
const meaning = ref(now.meaning ?? loaded.meaning)
const type = ref(now.type ?? loaded.type)
const read = ref(now.read ?? '')
const currency = ref(now.currency ?? loaded.currency)
const format = ref(now.format)
const hidden = ref(now.hidden ?? false)
const last = ref(now.last ?? loaded.last)
const { me } = useMe()
const sensitive = ref(loaded.sensitive)

const target = computed(() => loaded.targets.find((t) => t.type === type.value))
const retyped = computed(() => type.value !== loaded.type)
const look = useQuery(
  computed(() => ({
    ...queries.readAs(props.set, loaded.key, type.value, read.value),
    enabled: retyped.value,
    placeholderData: keepPreviousData,
  })),
)
function chooseType(next: string) {
  const found = [loaded, ...loaded.targets].find((t) => t.type === next)
  if (!found) return
  type.value = found.type
  read.value = ''
  format.value = undefined
}
const words = computed<FieldWords>(() => ({
  label: said(label.value, loaded.label),
  meaning: saidOrNone(meaning.value, loaded.meaning),
  type: retyped.value ? type.value : undefined,
  read: retyped.value ? read.value || undefined : undefined,
  currency: type.value === 'money' ? said(currency.value.toUpperCase(), loaded.currency) : undefined,
  currencyBy: type.value === 'money' && !currency.value ? now.currencyBy : undefined,
  format: format.value,
  hidden: hidden.value || undefined,
  last: last.value === loaded.last ? undefined : last.value,
}))
/** What is said now is another word than what is kept. */
const differs = (property: keyof FieldWords) =>
  JSON.stringify(words.value[property]) !== JSON.stringify(now[property])
async function save() {
  if (sensitive.value !== loaded.sensitive)
    await marking.mutateAsync({ field: loaded.key, on: sensitive.value })
  const next = withField(description.data.value?.said ?? {}, loaded.key, words.value)
  if (JSON.stringify(next) !== JSON.stringify(description.data.value?.said ?? {})) {
    const about = said(label.value, loaded.label)
      ? `“${loaded.label}” is called “${label.value.trim()}” now.`
      : `“${loaded.label}” is described anew.`
    await saying.mutateAsync({ next, words: about })
  }
  emit('done')
}
const attempt = () => void save().catch(() => undefined) // the mutations show what went wrong
</script>

<template>
  <form
    class="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-8 gap-y-3 border-l-2 border-mulberry bg-sheet px-4 py-3 max-md:grid-cols-1"
    :aria-label="`About ${loaded.label}`"
    data-field-form
    @submit.prevent="attempt"
    @keydown.esc.stop="emit('done')"
  >
    <WordInput
      v-model="label"
      label="Called"
      name="label"
      :maxlength="80"
      :loaded="loaded.label"
      :by="by('label')"
      :changed="differs('label')"
    />
    <label
      ><span class="quiet mb-0.5 block">Its values are</span>
      <span class="flex gap-2"
        ><select
          class="field"
          name="type"
          :value="type"
          @change="chooseType(($event.target as HTMLSelectElement).value)"
        >
          <option :value="loaded.type">{{ loaded.typeName }}</option>
          <option v-for="t in loaded.targets" :key="t.type" :value="t.type">{{ t.name }}</option></select
        ><select
          v-if="target && (target.ways.length > 1 || target.ways[0]?.words !== 'as it is')"
          v-model="read"
          class="field"
          name="read"
          aria-label="How they are read"
        >
          <option v-for="(w, i) in target.ways" :key="w.key" :value="i ? w.key : ''">
            {{ w.words }}
          </option>
        </select></span
      ><Origin
        :by="by('type')"
        :changed="differs('type') || differs('read')"
        :loaded="loaded.typeName"
        @back="chooseType(loaded.type)"
    /></label>
    <p v-if="retyped && look.data.value" class="col-span-full" role="status" data-read-look>
      <template v-if="look.data.value.lost === 0"
        >All {{ formatCount(look.data.value.filled) }} values can be read so</template
      ><span v-else class="text-honey"
        >{{ formatCount(look.data.value.lost) }} of {{ formatCount(look.data.value.filled) }} values cannot be
        read so, and count as blank: {{ look.data.value.examples.join(' · ') }}</span
      ><template v-if="look.data.value.samples.length"
        >;
        <span v-for="(s, i) in look.data.value.samples.slice(0, 3)" :key="i"
          >{{ i ? ', ' : '' }}<span class="quiet">{{ s.before }}</span> is {{ s.after }}</span
        ></template
      >.
    </p>
    <p v-if="retyped && look.error.value" class="col-span-full text-mulberry">
      {{ wordsOf(look.error.value) }}
    </p>
    <WordInput
      v-model="meaning"
      class="col-span-full"
      label="Meaning"
      name="meaning"
      :maxlength="400"
      placeholder="What a newcomer should know about its numbers"
      :loaded="loaded.meaning"
      :by="by('meaning')"
      :changed="differs('meaning')"
    />
    <WordInput
      v-if="type === 'money'"
      v-model="currency"
      label="Currency"
      name="currency"
      :maxlength="3"
      placeholder="as EUR"
      :loaded="loaded.currency || loaded.currencyBy"
      :back="loaded.currency"
      :by="by('currency')"
      :changed="differs('currency')"
    />
    <div v-if="!['text', 'yesno', 'picture'].includes(type)">
      <span class="quiet mb-0.5 block">Written, unless a view says otherwise</span>
      <FormatEditor :key="type" :field="{ ...current, type }" :format="format" @change="format = $event" />
      <Origin v-if="format" :by="by('format')" changed loaded="the usual way" @back="format = undefined" />
    </div>
    <fieldset class="col-span-full flex flex-wrap gap-x-6 gap-y-1">
      <label class="flex items-baseline gap-2"
        ><input v-model="last" type="checkbox" class="accent-mulberry" name="last" />comes last where fields
        are looked for</label
      >
      <label class="flex items-baseline gap-2"
        ><input v-model="hidden" type="checkbox" class="accent-mulberry" name="hidden" />not offered; views
        that use it go on</label
      >
      <label v-if="me?.administrator" class="flex items-baseline gap-2"
        ><input v-model="sensitive" type="checkbox" class="accent-mulberry" name="sensitive" />sensitive: only
        for those who may see such fields</label
      >
    </fieldset>
    <SayTrouble :describing="describing" @done="emit('done')" />
    <p class="col-span-full flex items-center gap-4">
      <button class="button button-act" type="submit" data-say :disabled="saying.isPending.value">
        Say it for everybody
      </button>
      <button class="link" type="button" @click="emit('done')">Cancel</button>
    </p>
  </form>
</template>
