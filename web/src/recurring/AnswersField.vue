<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { givenWords, type Answers } from '../bench/ask/answers'

/** With which answers a view runs by itself: those given now, or what its author proposes. */
const answers = defineModel<Answers>({ required: true })
const props = defineProps<{ asks: readonly Schemas['Asked'][]; now: Answers }>()
const own = computed(() => Object.keys(answers.value).length > 0)
const lines = computed(() =>
  props.asks.map((a) => ({
    name: a.name,
    label: a.label,
    text: answers.value[a.name]
      ? givenWords(answers.value[a.name]!)
      : a.answered
        ? 'as proposed'
        : 'anything',
  })),
)
</script>

<template>
  <fieldset v-if="asks.length" data-with-answers>
    <legend class="mb-1 font-medium">With which answers</legend>
    <p v-for="l in lines" :key="l.name" class="text-[13px]">
      <span class="quiet">{{ l.label }}</span> <b class="font-medium">{{ l.text }}</b>
    </p>
    <label v-if="Object.keys(now).length || own" class="mt-1 inline-flex items-baseline gap-1.5 text-[13px]"
      ><input type="checkbox" class="accent-mulberry" :checked="own" @change="answers = own ? {} : now" /> the
      answers given on the bench now; otherwise what the view proposes</label
    >
    <p class="quiet text-xs">Periods move along: “last month” is the one before each time.</p>
  </fieldset>
</template>
