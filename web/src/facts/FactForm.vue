<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { FactBody, RecordFact } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { formatCount, formatRecent } from '../words'
import type { FactsOf } from './useFacts'

/** A field that people fill in: what it is called and means, what its values are, who fills it in. */
const props = defineProps<{ fact: RecordFact | null; label: string; facts: FactsOf }>()
const emit = defineEmits<{ done: [] }>()
const { add, change, remove } = props.facts
const names = useQuery(queries.names())
const label = ref(props.fact?.label ?? '')
const meaning = ref(props.fact?.meaning ?? '')
type Kind = FactBody['type'] | 'list'
const kind = ref<Kind>(props.fact?.choices?.length ? 'list' : (props.fact?.type ?? 'text'))
const kinds: readonly (readonly [Kind, string])[] = [
  ['text', 'text'],
  ['list', 'one of a list'],
  ['date', 'a date'],
  ['yesno', 'yes or no'],
  ['decimal', 'a number'],
  ['money', 'money'],
]
const choices = ref((props.fact?.choices ?? []).join('\n'))
const decimals = ref(props.fact?.decimals ?? 0)
const currency = ref(props.fact?.currency ?? '')
const role = ref(props.fact?.fill.role ?? 'analyst')
const group = ref(props.fact?.fill.groups?.[0] ?? 0)
const body = computed<FactBody>(() => ({
  label: label.value.trim(),
  meaning: meaning.value.trim() || undefined,
  type: kind.value === 'list' ? 'text' : kind.value,
  decimals:
    kind.value === 'money' ? decimals.value || 2 : kind.value === 'decimal' ? decimals.value : undefined,
  currency: kind.value === 'money' ? currency.value.trim().toUpperCase() || undefined : undefined,
  choices:
    kind.value === 'list'
      ? choices.value
          .split('\n')
          .map((c) => c.trim())
          .filter(Boolean)
      : undefined,
  fill: { role: role.value, groups: group.value ? [group.value] : undefined },
}))
function save() {
  const options = { onSuccess: () => emit('done') }
  if (props.fact)
    change.mutate({ key: props.fact.key ?? '', base: props.fact.version, fact: body.value }, options)
  else add.mutate(body.value, options)
}
const sure = ref(false)
const trouble = computed(() => add.error.value ?? change.error.value ?? remove.error.value)
</script>

<template>
  <form
    class="grid grid-cols-2 gap-x-8 gap-y-3 border-l-2 border-honey bg-sheet px-4 py-3 max-md:grid-cols-1"
    :aria-label="fact ? `The fact ${fact.label}` : 'A new fact'"
    data-fact-form
    @submit.prevent="save"
    @keydown.esc.stop="emit('done')"
  >
    <label
      ><span class="quiet mb-0.5 block">Called</span
      ><input
        v-model="label"
        class="field"
        maxlength="80"
        name="fact-label"
        placeholder="as Dry dock from"
        required
        data-first
    /></label>
    <label
      ><span class="quiet mb-0.5 block">Its values are</span
      ><select v-model="kind" class="field" name="fact-type" :disabled="!!fact">
        <option v-for="[value, words] in kinds" :key="value" :value="value">{{ words }}</option>
      </select></label
    >
    <label class="col-span-full"
      ><span class="quiet mb-0.5 block">Meaning</span
      ><input
        v-model="meaning"
        class="field"
        maxlength="400"
        name="fact-meaning"
        placeholder="What whoever fills it in should know"
    /></label>
    <label v-if="kind === 'list'" class="col-span-full"
      ><span class="quiet mb-0.5 block">The list, each on a line of its own</span
      ><textarea v-model="choices" class="field" rows="4" name="fact-choices"></textarea>
    </label>
    <label v-if="kind === 'decimal' || kind === 'money'"
      ><span class="quiet mb-0.5 block">Decimals</span
      ><input
        v-model.number="decimals"
        class="field !w-24"
        type="number"
        min="0"
        max="6"
        name="fact-decimals"
        :disabled="!!fact"
        :placeholder="kind === 'money' ? '2' : '0'"
    /></label>
    <label v-if="kind === 'money'"
      ><span class="quiet mb-0.5 block">Currency</span
      ><input
        v-model="currency"
        class="field !w-24 uppercase"
        maxlength="3"
        name="fact-currency"
        placeholder="as EUR"
    /></label>
    <label
      ><span class="quiet mb-0.5 block">Filled in by</span
      ><select v-model="role" class="field" name="fact-role">
        <option value="reader">everybody</option>
        <option value="analyst">analysts</option>
        <option value="administrator">administrators</option>
      </select></label
    >
    <label v-if="role !== 'reader'"
      ><span class="quiet mb-0.5 block">and</span
      ><select v-model="group" class="field" name="fact-group">
        <option :value="0">nobody else</option>
        <option v-for="g in names.data.value?.groups" :key="g.id" :value="g.id">{{ g.name }}</option>
      </select></label
    >
    <p v-if="fact" class="quiet col-span-full text-xs">
      Added by {{ fact.madeBy }}, {{ formatRecent(new Date(fact.madeAt)) }};
      {{ formatCount(fact.filled) }} values are filled in.
    </p>
    <p v-else class="quiet col-span-full text-xs">
      From then on it is a field of {{ label ? `${props.label.toLowerCase()}` : 'these records' }} like any
      other, for everybody. Its values are kept here, and the application’s database stays as it is.
    </p>
    <p v-if="trouble" class="col-span-full text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
    <p class="col-span-full flex items-center gap-4">
      <button
        class="button button-act"
        type="submit"
        data-save-fact
        :disabled="!label.trim() || add.isPending.value || change.isPending.value"
      >
        {{ fact ? 'Say it for everybody' : 'Add the fact' }}
      </button>
      <button class="link" type="button" @click="emit('done')">Cancel</button>
      <template v-if="fact">
        <button v-if="!sure" class="link ml-auto" type="button" data-remove-fact @click="sure = true">
          Take the fact away …
        </button>
        <button
          v-else
          class="link ml-auto font-medium"
          type="button"
          data-remove-sure
          @click="remove.mutate(fact.key ?? '', { onSuccess: () => emit('done') })"
        >
          Views that use it will miss it. Its values are kept. Take it away
        </button>
      </template>
    </p>
  </form>
</template>
