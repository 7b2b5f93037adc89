<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import type { RecordFact, RecordSet } from '../api/client'
import { wordsOf } from '../api/problem'
import { formatCount } from '../words'
import AddingSwitch from './AddingSwitch.vue'
import FactForm from './FactForm.vue'
import FactPaste from './FactPaste.vue'
import FilledStrip from './FilledStrip.vue'
import { useFacts } from './useFacts'
import type { Filled } from './useFilling'

/** The facts of a record set: what people know of the records and the application does not. */
const props = defineProps<{ set: RecordSet; administrator: boolean }>()
const key = computed(() => props.set.key)
const facts = useFacts(toRef(key))
const { facts: list, restore } = facts
const here = computed(() => list.data.value?.facts.filter((f) => !f.removed) ?? [])
const gone = computed(() => list.data.value?.facts.filter((f) => f.removed) ?? [])
/** Key of the fact that is open; empty for a new one. */
const open = ref<string | null>(null)
const pasting = ref<RecordFact | null>(null)
const filled = ref<Filled | null>(null)
const kindOf = (f: RecordFact) =>
  f.choices?.length
    ? `one of ${f.choices.length}`
    : { text: 'text', decimal: 'number', money: 'money', date: 'date', yesno: 'yes or no' }[f.type]
function done(what: Filled) {
  pasting.value = null
  filled.value = what
}
</script>

<template>
  <div v-if="here.length || list.data.value?.mayAdd" class="mt-6" data-facts>
    <FilledStrip v-if="filled" :key="filled.batch" :filled="filled" @gone="filled = null" />
    <table class="w-full table-fixed border-collapse text-left">
      <caption class="mb-1 border-b border-rule py-1 text-left font-medium text-mute">
        Filled in here
      </caption>
      <tbody>
        <template v-for="f in here" :key="f.key">
          <tr class="border-b border-rule align-baseline" :data-fact="f.key">
            <td class="w-[45%] py-1.5 pr-4">
              <button
                v-if="f.mayChange"
                class="text-left font-medium hover:text-mulberry"
                :aria-expanded="open === f.key"
                @click="open = open === f.key ? null : (f.key ?? null)"
              >
                {{ f.label }}</button><b v-else class="font-medium">{{ f.label }}</b>
              <span v-if="f.meaning" class="quiet block">{{ f.meaning }}</span>
            </td>
            <td class="w-28">{{ kindOf(f) }}</td>
            <td class="quiet">{{ formatCount(f.filled) }} filled in</td>
            <td class="text-right">
              <button v-if="f.mayFill" class="link" data-paste-open @click="pasting = f">
                Paste values …
              </button>
            </td>
          </tr>
          <tr v-if="open === f.key">
            <td colspan="4" class="py-2">
              <FactForm :fact="f" :label="set.label" :facts="facts" @done="open = null" />
            </td>
          </tr>
        </template>
        <tr v-for="f in gone" :key="f.key" class="quiet border-b border-rule align-baseline">
          <td class="py-1.5 pr-4">{{ f.label }}</td>
          <td>taken away</td>
          <td>{{ formatCount(f.filled) }} values are kept</td>
          <td class="text-right">
            <button class="link" @click="restore.mutate(f.key ?? '')">Bring back</button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="list.error.value ?? restore.error.value" class="text-mulberry" role="alert">
      {{ wordsOf(list.error.value ?? restore.error.value) }}
    </p>
    <FactForm
      v-if="open === ''"
      class="mt-2"
      :fact="null"
      :label="set.label"
      :facts="facts"
      @done="open = null"
    />
    <p v-else-if="list.data.value?.whyNot" class="quiet mt-2">{{ list.data.value.whyNot }}</p>
    <p v-else-if="list.data.value?.mayAdd && open === null" class="mt-2">
      <button class="link" data-add-fact @click="open = ''">Add a fact</button>
      <span class="quiet"> that the application does not hold, and people fill in</span>
    </p>
    <AddingSwitch v-if="administrator && open === ''" class="mt-2" />
    <FactPaste
      v-if="pasting"
      :set="set.key"
      :one="set.one"
      :many="set.label.toLowerCase()"
      :fact="pasting"
      @close="pasting = null"
      @filled="done"
    />
  </div>
</template>
