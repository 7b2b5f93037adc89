<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Delivery } from '../api/client'
import { wordsOf } from '../api/problem'
import HandOver from '../sharing/HandOver.vue'
import { useMe } from '../session/useMe'
import ActionMenu, { type MenuSection } from '../shell/ActionMenu.vue'
import LetterList from './LetterList.vue'
import { useDeliveries } from './useDeliveries'

/** A delivery as a sentence, with what became of it and what can be done. */
const props = defineProps<{ delivery: Delivery }>()
const emit = defineEmits<{ change: [] }>()
const { me } = useMe()
const { pause, send, end, hand, letLeave } = useDeliveries()
const opened = ref(false)
const handing = ref(false)
const ending = ref(false)
const key = computed(() => props.delivery.key)
const sections = computed<MenuSection[]>(() => [
  {
    acts: [
      { id: 'change', title: 'Change it …', run: () => emit('change') },
      { id: 'all', title: 'Send it to all now', run: () => send.mutate({ key: key.value, all: true }) },
    ],
  },
  {
    acts: [
      { id: 'hand', title: 'Hand it over …', run: () => (handing.value = true) },
      ...(me.value?.administrator && (props.delivery.terms.addresses?.length || props.delivery.terms.hook)
        ? [
            {
              id: 'sensitive',
              title: 'Let sensitive fields leave with it',
              checked: props.delivery.sensitive,
              run: () => letLeave.mutate({ key: key.value, allowed: !props.delivery.sensitive }),
            },
          ]
        : []),
      { id: 'end', title: 'End it …', run: () => (ending.value = true) },
    ],
  },
])
const busy = computed(() => pause.isPending.value || send.isPending.value || end.isPending.value)
const trouble = computed(
  () => pause.error.value ?? send.error.value ?? end.error.value ?? hand.error.value ?? letLeave.error.value,
)
function sendMe() {
  opened.value = true
  send.mutate({ key: key.value })
}
</script>

<template>
  <li class="border-b border-rule py-3" :data-delivery="delivery.name">
    <div class="flex flex-wrap items-start gap-x-4 gap-y-1.5">
      <div class="min-w-60 flex-1 max-md:basis-full">
        <RouterLink
          :to="`/${delivery.kind === 'board' ? 'b' : 'v'}/${delivery.view}`"
          class="heading text-base hover:underline"
          >{{ delivery.name }}</RouterLink
        >
        <span v-if="!delivery.mine" class="quiet ml-3 text-xs">of {{ delivery.owner }}</span>
        <p class="font-serif first-letter:uppercase" data-delivery-words>{{ delivery.words }}.</p>
        <p v-if="delivery.paused" class="text-honey" data-paused>
          Paused<template v-if="delivery.pausedWhy">: {{ delivery.pausedWhy }}</template
          >.
        </p>
        <p class="text-[13px]">
          <span v-if="delivery.stand" class="quiet mr-4">{{ delivery.stand }}</span><button
            v-if="delivery.last"
            class="underline decoration-dotted underline-offset-2"
            :class="delivery.failed ? 'text-mulberry' : 'quiet'"
            :aria-expanded="opened"
            data-what-was-sent
            @click="opened = !opened"
          >
            {{ delivery.last }}</button
          ><span v-else-if="!opened" class="quiet">nothing sent yet</span>
        </p>
      </div>
      <button class="button" :disabled="busy" data-send-me @click="sendMe">Send me one</button>
      <button
        class="button"
        :disabled="busy"
        data-pause
        @click="pause.mutate({ key: delivery.key, paused: !delivery.paused })"
      >
        {{ delivery.paused ? 'Go on' : 'Pause' }}
      </button>
      <ActionMenu class="button" :aria-label="`More of ${delivery.name}`" :sections="sections">⋯</ActionMenu>
    </div>
    <HandOver
      v-if="handing"
      class="mt-2"
      @hand="(to) => hand.mutate({ key: delivery.key, to }, { onSuccess: () => (handing = false) })"
    />
    <p v-if="ending" class="mt-2 flex items-baseline gap-3" role="alert">
      It is not sent any more, and what is known of its letters goes.
      <button class="link" :disabled="busy" data-end-now @click="end.mutate(delivery.key)">End it now</button>
      <button class="quiet" @click="ending = false">keep it</button>
    </p>
    <p v-if="trouble" class="mt-1 text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
    <LetterList v-if="opened" class="mt-2" :delivery="delivery.key" />
  </li>
</template>
