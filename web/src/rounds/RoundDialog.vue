<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Round } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import type { Answers } from '../bench/ask/answers'
import AnswersField from '../recurring/AnswersField.vue'
import RuleField from '../recurring/RuleField.vue'
import TriggerField from '../recurring/TriggerField.vue'
import WhoField from '../recurring/WhoField.vue'
import { useMe } from '../session/useMe'
import DialogFrame from '../shell/DialogFrame.vue'
import { useRounds, type RoundTerms } from './useRounds'

/** Says when a view is to be looked at, and by whom. */
const props = defineProps<{ view: string; name: string; round?: Round; now?: Answers }>()
const emit = defineEmits<{ close: []; said: [text: string] }>()
const { me } = useMe()
const { save, end, ofView } = useRounds()
const choices = useQuery(queries.recurringChoices(props.view))
const now = props.now ?? {}
/** The round that is changed; none makes a new one. */
const round = ref(props.round)
const already = computed(() => (round.value ? [] : ofView(props.view)))
function change(one: Round) {
  round.value = one
  terms.value = { ...one.terms }
}
const terms = ref<RoundTerms>(
  props.round
    ? { ...props.round.terms }
    : {
        when: { every: 'working day', at: '08:00' },
        answers: now,
        people: me.value ? [me.value.id] : [],
        groups: [],
        seeing: true,
      },
)
const many = computed(() => terms.value.people.length + terms.value.groups.length * 2 > 1)
const trouble = computed(() => save.error.value ?? end.error.value ?? choices.error.value)
const keep = () =>
  save.mutate(
    { key: round.value?.key, view: props.view, terms: terms.value },
    {
      onSuccess: (kept) => {
        emit('said', `It is to be looked at ${kept.words}.`)
        emit('close')
      },
    },
  )
const drop = () => round.value && end.mutate(round.value.key, { onSuccess: () => emit('close') })
</script>

<template>
  <DialogFrame
    title="Have it looked at"
    tone="mulberry"
    :width="600"
    acts
    data-round-dialog
    @close="emit('close')"
  >
    <form class="space-y-5" @submit.prevent="keep">
      <p class="quiet">
        <b class="font-medium text-ink">{{ name }}</b> stands on their desks under “To look at” from each of
        these times on, until it was looked at.
      </p>
      <ul v-if="already.length" class="border-y border-rule py-1 text-[13px]" data-already>
        <li v-for="one in already" :key="one.key" class="flex items-baseline gap-3">
          <span class="min-w-0 flex-1">It is looked at {{ one.words }}, by {{ one.who }}.</span>
          <button v-if="one.owned" type="button" class="link" @click="change(one)">change this</button>
        </li>
      </ul>
      <RuleField v-model="terms.when">When</RuleField>
      <fieldset>
        <legend class="mb-1 font-medium">Who looks</legend>
        <WhoField v-model:people="terms.people" v-model:groups="terms.groups" label="Who looks" />
        <label v-if="many" class="mt-1.5 flex items-baseline gap-1.5 text-[13px]"
          ><input v-model="terms.each" type="checkbox" class="accent-mulberry" name="each" /> everyone has to
          look; otherwise one of them is enough</label
        >
      </fieldset>
      <AnswersField
        v-if="choices.data.value"
        :model-value="terms.answers ?? {}"
        :asks="choices.data.value.asks"
        :now="now"
        @update:model-value="(to) => (terms.answers = { ...to })"
      />
      <TriggerField
        v-if="choices.data.value"
        v-model="terms.trigger"
        :choices="choices.data.value"
        since="the last look"
      />
      <fieldset>
        <legend class="mb-1 font-medium">It is put away</legend>
        <label class="flex items-baseline gap-1.5"
          ><input v-model="terms.seeing" type="radio" class="accent-mulberry" name="seeing" :value="true" />
          by having been seen: opened and scrolled, or taken away</label
        >
        <label class="flex items-baseline gap-1.5"
          ><input v-model="terms.seeing" type="radio" class="accent-mulberry" name="seeing" :value="false" />
          by hand, with “Looked at”</label
        >
      </fieldset>
      <p v-if="trouble" class="text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
      <p class="flex items-center justify-end gap-3">
        <button v-if="round?.owned" type="button" class="link mr-auto" data-end-round @click="drop">
          End this round
        </button>
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button
          type="submit"
          class="button button-act"
          :disabled="save.isPending.value || !(terms.people.length + terms.groups.length)"
          data-keep-round
        >
          {{ round ? 'Change it' : 'Put it on their desks' }}
        </button>
      </p>
    </form>
  </DialogFrame>
</template>
