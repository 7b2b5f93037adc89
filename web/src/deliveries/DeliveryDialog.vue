<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { Delivery, DeliveryTerms } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import type { Answers } from '../bench/ask/answers'
import AnswersField from '../recurring/AnswersField.vue'
import RuleField from '../recurring/RuleField.vue'
import TriggerField from '../recurring/TriggerField.vue'
import WhoField from '../recurring/WhoField.vue'
import { useMe } from '../session/useMe'
import DialogFrame from '../shell/DialogFrame.vue'
import { addressesIn, attached, formatsOf, mostFiles, toggled } from './files'
import LetterPreview from './LetterPreview.vue'
import { useDeliveries } from './useDeliveries'

/** Has a view or a board sent: to whom, when, with what, and only if; the letter stands beside it. */
const props = defineProps<{
  view: string
  kind: 'view' | 'board'
  name: string
  delivery?: Delivery
  now?: Answers
}>()
const emit = defineEmits<{ close: []; said: [text: string] }>()
const { me } = useMe()
const { list, save } = useDeliveries()
const choices = useQuery(queries.recurringChoices(props.view))
const now = props.now ?? {}
const terms = ref<DeliveryTerms>(
  props.delivery
    ? { ...props.delivery.terms }
    : {
        when: { every: 'week', on: ['monday'], at: '07:30' },
        answers: now,
        content: { files: [{ format: props.kind === 'board' ? 'pdf' : 'xlsx' }] },
        people: me.value ? [me.value.id] : [],
        groups: [],
      },
)
const rule = computed({
  get: () => terms.value.when ?? { every: 'week' as const, on: ['monday' as const], at: '07:30' },
  set: (to) => (terms.value = { ...terms.value, when: to }),
})
const content = (change: Partial<DeliveryTerms['content']>) =>
  (terms.value = { ...terms.value, content: { ...terms.value.content, ...change } })
const outside = computed(() => list.data.value?.outside ?? '')
const addresses = ref((terms.value.addresses ?? []).join(', '))
const typed = (event: Event) => (event.target as HTMLInputElement).value
function keepAddresses() {
  const all = addressesIn(addresses.value)
  terms.value = { ...terms.value, addresses: all.length ? all : undefined }
}
const nobody = computed(
  () =>
    !terms.value.people.length &&
    !terms.value.groups.length &&
    !terms.value.addresses?.length &&
    !terms.value.hook,
)
const once = computed(() => !terms.value.when)
function keep() {
  keepAddresses()
  save.mutate(
    { key: props.delivery?.key, view: props.view, terms: terms.value },
    {
      onSuccess: (kept) => {
        emit('said', once.value ? 'It is on its way.' : `It is delivered ${kept.words}.`)
        emit('close')
      },
    },
  )
}
</script>

<template>
  <DialogFrame
    :title="`Deliver “${name}”`"
    tone="mulberry"
    :width="1060"
    acts
    data-delivery-dialog
    @close="emit('close')"
  >
    <form @submit.prevent="keep">
      <p v-if="list.data.value && !list.data.value.mails" class="mb-4 text-honey" role="status">
        No mail server is set up, so nothing can be mailed. Whoever runs Gavrik names one.
      </p>
      <div class="grid grid-cols-[minmax(0,26rem)_minmax(0,1fr)] gap-7 max-lg:grid-cols-1">
        <div class="space-y-4">
          <fieldset>
            <legend class="mb-1 font-medium">To whom</legend>
            <WhoField v-model:people="terms.people" v-model:groups="terms.groups" label="To whom" />
            <label v-if="outside || terms.addresses?.length" class="mt-1.5 block"
              ><span class="quiet text-[13px]"
                >addresses outside ({{ outside || 'none allowed any more' }})</span
              ><input
                v-model="addresses"
                class="field py-0.5 text-[13px]"
                placeholder="name@company.example, …"
                data-addresses
                @change="keepAddresses"
            /></label>
          </fieldset>
          <fieldset v-if="!delivery || once">
            <legend class="sr-only">Once or again and again</legend>
            <label class="mr-5 inline-flex items-baseline gap-1.5"
              ><input
                type="radio"
                class="accent-mulberry"
                name="once"
                :checked="!once"
                @change="terms = { ...terms, when: rule }"
              />
              again and again</label
            ><label class="inline-flex items-baseline gap-1.5"
              ><input
                type="radio"
                class="accent-mulberry"
                name="once"
                :checked="once"
                data-once
                @change="terms = { ...terms, when: undefined, trigger: undefined }"
              />
              once, now</label
            >
          </fieldset>
          <RuleField v-if="!once" v-model="rule">When</RuleField>
          <AnswersField
            v-if="choices.data.value"
            :model-value="terms.answers ?? {}"
            :asks="choices.data.value.asks"
            :now="now"
            @update:model-value="(to) => (terms = { ...terms, answers: { ...to } })"
          />
          <TriggerField
            v-if="choices.data.value && !once && kind === 'view'"
            v-model="terms.trigger"
            :choices="choices.data.value"
            since="the last one"
          />
          <fieldset>
            <legend class="mb-1 font-medium">Attached</legend>
            <div class="flex flex-wrap gap-x-4 gap-y-1">
              <label v-for="f in formatsOf(kind)" :key="f.format" class="inline-flex items-baseline gap-1.5"
                ><input
                  type="checkbox"
                  class="accent-mulberry"
                  :checked="attached(terms.content.files, f.format)"
                  :disabled="
                    !attached(terms.content.files, f.format) &&
                    (terms.content.files?.length ?? 0) >= mostFiles
                  "
                  :data-attach="f.format"
                  @change="content({ files: toggled(terms.content.files, f.format) })"
                />{{ f.name }}</label
              >
            </div>
          </fieldset>
          <label class="block"
            ><span class="mb-1 block font-medium">Subject</span
            ><input
              class="field py-1"
              maxlength="200"
              :placeholder="name"
              :value="terms.content.subject"
              data-letter-subject
              @input="content({ subject: typed($event) || undefined })"
          /></label>
          <label class="block"
            ><span class="mb-1 block font-medium">Words of your own</span
            ><textarea
              class="field py-1"
              rows="2"
              maxlength="4000"
              :value="terms.content.note"
              data-letter-note
              @input="content({ note: typed($event) || undefined })"
            ></textarea>
          </label>
          <details :open="!!terms.hook">
            <summary class="quiet cursor-pointer text-[13px]">Post it to a program, too</summary>
            <label class="mt-1.5 block"
              ><span class="quiet text-[13px]">an HTTPS address; posts are signed</span
              ><input
                class="field py-0.5 text-[13px]"
                maxlength="2000"
                placeholder="https://company.example/in"
                :value="terms.hook"
                data-hook
                @change="terms = { ...terms, hook: typed($event) || undefined }"
            /></label>
            <p v-if="delivery?.secret" class="quiet mt-1 text-xs">
              Signed with <code class="break-all select-all">{{ delivery.secret }}</code>
            </p>
          </details>
        </div>
        <LetterPreview :view="view" :terms="terms" />
      </div>
      <p v-if="save.error.value" class="mt-4 text-mulberry" role="alert">{{ wordsOf(save.error.value) }}</p>
      <p class="mt-5 flex items-center justify-end gap-3">
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button
          type="submit"
          class="button button-act"
          :disabled="save.isPending.value || nobody"
          data-keep-delivery
        >
          {{ once ? 'Send it now' : delivery ? 'Change it' : 'Deliver it' }}
        </button>
      </p>
    </form>
  </DialogFrame>
</template>
