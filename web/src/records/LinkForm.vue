<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { LinkWords, RecordSet } from '../api/client'
import { queries } from '../api/queries'
import { linkKeyOf, said, saidOrNone, withLink } from './describing'
import SayTrouble from './SayTrouble.vue'
import type { Describing } from './useDescribing'
import WordInput from './WordInput.vue'

/** What people say about a link, or a link that they add: to the record that holds the same. */
const props = defineProps<{
  /** Key of the link; empty for one that is added. */
  link: string
  sets: readonly RecordSet[]
  set: RecordSet
  describing: Describing
}>()
const emit = defineEmits<{ done: [] }>()
const { description, saying } = props.describing
const loaded = description.data.value?.loaded.links.find((l) => l.key === props.link)
const now: LinkWords = description.data.value?.said.links?.[props.link] ?? {}
const current = props.set.links.find((l) => l.key === props.link)
const by = (property: string) => description.data.value?.by[`links.${props.link}.${property}`]
const added = !loaded
const to = ref(now.leads?.to ?? '')
const pairs = ref((now.leads?.by ?? ['']).map((here, i) => ({ here, there: now.leads?.into[i] ?? '' })))
const label = ref(now.label ?? loaded?.label ?? '')
const meaning = ref(now.meaning ?? loaded?.meaning ?? '')
const back = ref(now.back ?? '')
const hidden = ref(now.hidden ?? false)
const fieldsThere = useQuery(computed(() => queries.fields(to.value)))
const there = computed(() => (fieldsThere.data.value?.fields ?? []).filter((f) => !f.way.length && !f.kind))
const here = computed(() => description.data.value?.loaded.fields ?? [])
const called = (key: string) => description.data.value?.said.fields?.[key]?.label
const target = computed(() => props.sets.find((s) => s.key === (to.value || current?.to)))
const complete = computed(
  () => !added || (!!to.value && !!label.value.trim() && pairs.value.every((p) => p.here && p.there)),
)
const words = computed<LinkWords>(() => ({
  label: added ? label.value.trim() || undefined : said(label.value, loaded?.label ?? ''),
  meaning: saidOrNone(meaning.value, loaded?.meaning ?? ''),
  back: said(back.value, ''),
  hidden: hidden.value || undefined,
  leads: added
    ? { to: to.value, by: pairs.value.map((p) => p.here), into: pairs.value.map((p) => p.there) }
    : undefined,
}))
const differs = (property: keyof LinkWords) => words.value[property] !== now[property]
function save() {
  const taken = [...props.set.links.map((l) => l.key), ...here.value.map((f) => f.key)]
  const key = props.link || linkKeyOf(label.value, taken)
  put(
    key,
    words.value,
    props.link
      ? `The link “${label.value}” is described anew.`
      : `“${label.value}” leads to ${target.value?.label} now.`,
  )
}
function put(key: string, next: LinkWords | undefined, about: string) {
  saying.mutate(
    { next: withLink(description.data.value?.said ?? {}, key, next), words: about },
    { onSuccess: () => emit('done') },
  )
}
</script>

<template>
  <form
    class="grid grid-cols-2 gap-x-8 gap-y-3 border-l-2 border-mulberry bg-sheet px-4 py-3 max-md:grid-cols-1"
    :aria-label="link ? `About the link ${label}` : 'A further link'"
    data-link-form
    @submit.prevent="complete && save()"
    @keydown.esc.stop="emit('done')"
  >
    <template v-if="added">
      <label
        ><span class="quiet mb-0.5 block">Leads to</span
        ><select v-model="to" class="field" name="link-to" data-first>
          <option value="" disabled>choose a record set</option>
          <option v-for="s in sets" :key="s.key" :value="s.key">{{ s.label }}</option>
        </select></label
      >
      <div>
        <span class="quiet mb-0.5 block">that holds the same</span>
        <span v-for="(p, i) in pairs" :key="i" class="mb-1 flex items-baseline gap-2"
          ><select v-model="p.here" class="field" :aria-label="`Field of ${set.label}`" data-link-here>
            <option value="" disabled>field here</option>
            <option v-for="f in here" :key="f.key" :value="f.key">
              {{ called(f.key) ?? f.label }}
            </option></select
          >=<select v-model="p.there" class="field" :disabled="!to" aria-label="Field there" data-link-there>
            <option value="" disabled>field there</option>
            <option v-for="f in there" :key="f.path" :value="f.path">{{ f.label }}</option></select
          ><button
            v-if="pairs.length > 1"
            type="button"
            class="link"
            :aria-label="`Take pair ${i + 1} away`"
            @click="pairs.splice(i, 1)"
          >
            ×
          </button></span
        >
        <button
          v-if="pairs.length < 8"
          type="button"
          class="link text-xs"
          @click="pairs.push({ here: '', there: '' })"
        >
          and a further field
        </button>
      </div>
    </template>
    <WordInput
      v-model="label"
      label="Called here"
      name="link-label"
      :maxlength="80"
      :added="added"
      :loaded="loaded?.label ?? ''"
      :by="by('label')"
      :changed="differs('label')"
    />
    <WordInput
      v-model="back"
      :label="`and from ${target?.label.toLowerCase() ?? 'there'}, these are`"
      name="link-back"
      :maxlength="80"
      :placeholder="set.label"
      :added="added"
      :loaded="set.label"
      back=""
      :by="by('back')"
      :changed="differs('back')"
    />
    <WordInput
      v-model="meaning"
      class="col-span-full"
      label="Meaning"
      name="link-meaning"
      :maxlength="400"
      :added="added"
      :loaded="loaded?.meaning ?? ''"
      :by="by('meaning')"
      :changed="differs('meaning')"
    />
    <label class="col-span-full flex items-baseline gap-2"
      ><input v-model="hidden" type="checkbox" class="accent-mulberry" name="link-hidden" />not offered; views
      that go through it go on</label
    >
    <SayTrouble :describing="describing" @done="emit('done')" />
    <p class="col-span-full flex items-center gap-4">
      <button
        class="button button-act"
        type="submit"
        data-say
        :disabled="saying.isPending.value || !complete"
      >
        {{ link ? 'Say it for everybody' : 'Add the link for everybody' }}
      </button>
      <button class="link" type="button" @click="emit('done')">Cancel</button>
      <button
        v-if="link && added"
        class="link ml-auto"
        type="button"
        data-remove-link
        @click="put(link, undefined, `The link “${label}” is gone.`)"
      >
        Take the link away
      </button>
    </p>
  </form>
</template>
