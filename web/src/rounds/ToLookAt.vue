<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Round } from '../api/client'
import { wordsOf } from '../api/problem'
import CalendarDialog from './CalendarDialog.vue'
import LooksDialog from './LooksDialog.vue'
import NoteForm from './NoteForm.vue'
import RoundDialog from './RoundDialog.vue'
import { placeOf, useRounds } from './useRounds'

/** The rounds that are due, the longest first; the others are a line beneath, and open on a click. */
const { due, others, look, list } = useRounds()
const shown = ref(false)
const noting = ref('')
const history = ref<Round | null>(null)
const changed = ref<Round | null>(null)
const calendar = ref(false)
const there = computed(() => due.value.length + others.value.length > 0)
const next = computed(() => others.value.find((r) => r.next && r.looks)?.stand)
const trouble = computed(() => list.error.value ?? look.error.value)
function change(round: Round) {
  history.value = null
  changed.value = round
}
function lookedAt(round: Round, note = '') {
  look.mutate({ key: round.key, note: note || undefined }, { onSuccess: () => (noting.value = '') })
}
</script>

<template>
  <section v-if="there || trouble" class="mb-8" aria-labelledby="to-look-at" data-to-look-at>
    <div class="flex items-baseline gap-4 border-b border-rule pb-2 text-mute">
      <h2 id="to-look-at" class="font-medium">To look at</h2>
      <button class="ml-auto text-xs underline decoration-dotted underline-offset-2" @click="calendar = true">
        in your calendar …
      </button>
    </div>
    <p v-if="trouble" class="py-2 text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
    <ul>
      <li
        v-for="r in due"
        :key="r.key"
        class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule py-2"
        :data-due="r.name"
      >
        <RouterLink :to="placeOf(r)" class="group min-w-48 flex-1 max-md:basis-full">
          <b class="heading block truncate text-base group-hover:underline">{{ r.name }}</b>
          <span class="block text-honey"
            >{{ r.stand }}<template v-if="r.found"> · {{ r.found }}</template></span
          >
          <span v-if="r.wrong" class="block text-mulberry">{{ r.wrong }}</span>
        </RouterLink>
        <NoteForm
          v-if="noting === r.key"
          label="A note for the others"
          act="Looked at"
          :busy="look.isPending.value"
          @keep="(note) => lookedAt(r, note)"
          @close="noting = ''"
        />
        <template v-else>
          <button
            class="quiet text-xs underline decoration-dotted underline-offset-2"
            data-history
            @click="history = r"
          >
            {{ r.last ? `last: ${r.last.by}` : 'not looked at yet' }}
          </button>
          <button class="link text-[13px]" data-note-first @click="noting = r.key">with a note …</button>
          <button class="button" :disabled="look.isPending.value" data-looked @click="lookedAt(r)">
            Looked at
          </button>
        </template>
        <p v-if="r.last?.note" class="basis-full truncate font-serif text-[13px]" :title="r.last.note">
          {{ r.last.by }}: “{{ r.last.note }}”
        </p>
      </li>
    </ul>
    <p v-if="!due.length && there" class="py-2" data-nothing-due>Everything was looked at.</p>
    <button
      v-if="others.length"
      class="quiet py-1.5 text-xs underline decoration-dotted underline-offset-2"
      :aria-expanded="shown"
      data-other-rounds
      @click="shown = !shown"
    >
      {{ others.length }} not due<template v-if="next">, {{ next }}</template>
    </button>
    <ul v-if="shown && others.length" class="text-[13px]">
      <li
        v-for="r in others"
        :key="r.key"
        class="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1"
        :data-not-due="r.name"
      >
        <RouterLink v-if="r.stands" :to="placeOf(r)" class="min-w-0 flex-1 truncate hover:underline">{{
          r.name
        }}</RouterLink>
        <span v-else class="min-w-0 flex-1 truncate">{{ r.name }}</span>
        <span v-if="r.wrong" class="text-mulberry">{{ r.wrong }}</span>
        <span v-else class="quiet"
          >{{ r.looks ? '' : `${r.who}: ` }}{{ r.words
          }}<template v-if="r.idle"> — {{ r.found }}</template></span
        >
        <button class="quiet underline decoration-dotted underline-offset-2" @click="history = r">
          {{ r.last ? `last: ${r.last.by}` : 'not looked at yet' }}
        </button>
        <button
          v-if="r.owned"
          class="link"
          :aria-label="`Change the round of ${r.name}`"
          @click="changed = r"
        >
          change
        </button>
      </li>
    </ul>
    <LooksDialog v-if="history" :round="history" @close="history = null" @change="change(history)" />
    <RoundDialog
      v-if="changed"
      :view="changed.view"
      :name="changed.name"
      :round="changed"
      @close="changed = null"
    />
    <CalendarDialog v-if="calendar" @close="calendar = false" />
  </section>
</template>
