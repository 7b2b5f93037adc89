<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { queries } from '../api/queries'
import { dayOfMonth, last, onDay, repeatedBy, toggled, weekdays, type DayOfMonth, type Rule } from './rule'

/** When something recurs, as a sentence with choices; beneath it, the rule in words and its next times. */
const rule = defineModel<Rule>({ required: true })
const said = useQuery(
  computed(() => ({ ...queries.ruleWords(rule.value), placeholderData: keepPreviousData })),
)
const wrong = computed(() => said.data.value?.wrong ?? '')
const units: { every: Rule['every']; one: string; many: string }[] = [
  { every: 'day', one: 'day', many: 'days' },
  { every: 'working day', one: 'working day', many: 'working days' },
  { every: 'week', one: 'week', many: 'weeks' },
  { every: 'month', one: 'month', many: 'months' },
]
const counts = [1, 2, 3, 4, 6, 12]
const nths = [
  { nth: 1, word: 'first' },
  { nth: 2, word: 'second' },
  { nth: 3, word: 'third' },
  { nth: 4, word: 'fourth' },
  { nth: last, word: 'last' },
]
const valueOf = (event: Event) => (event.target as HTMLSelectElement).value
const set = (change: Partial<Rule>) => (rule.value = { ...rule.value, ...change })
const several = computed(() => (rule.value.count ?? 1) > 1)
</script>

<template>
  <fieldset data-rule>
    <legend class="mb-1 font-medium"><slot>When</slot></legend>
    <div class="flex flex-wrap items-baseline gap-x-2 gap-y-1.5">
      <span>every</span>
      <select
        v-if="rule.every !== 'working day'"
        class="field !w-auto py-0.5"
        aria-label="Every how many"
        :value="rule.count ?? 1"
        data-count
        @change="set({ count: Number(valueOf($event)) > 1 ? Number(valueOf($event)) : undefined })"
      >
        <option v-for="n in counts" :key="n" :value="n">{{ n === 1 ? '—' : n }}</option>
      </select>
      <select
        class="field !w-auto py-0.5"
        aria-label="What it repeats by"
        :value="rule.every"
        data-every
        @change="rule = repeatedBy(rule, valueOf($event) as Rule['every'])"
      >
        <option v-for="u in units" :key="u.every" :value="u.every">
          {{ several && u.every !== 'working day' ? u.many : u.one }}
        </option>
      </select>
      <template v-if="rule.every === 'month'">
        <span>on the</span>
        <select
          v-if="dayOfMonth(rule) === 'date'"
          class="field !w-auto py-0.5"
          aria-label="Which date"
          :value="rule.date"
          data-date
          @change="set({ date: Number(valueOf($event)) })"
        >
          <option v-for="d in 31" :key="d" :value="d">{{ d }}</option>
          <option :value="last">last</option>
        </select>
        <select
          v-else
          class="field !w-auto py-0.5"
          aria-label="Which of them"
          :value="rule.nth"
          data-nth
          @change="set({ nth: Number(valueOf($event)) })"
        >
          <option v-for="n in nths" :key="n.nth" :value="n.nth">{{ n.word }}</option>
        </select>
        <select
          class="field !w-auto py-0.5"
          aria-label="Of which days"
          :value="dayOfMonth(rule)"
          data-day-of-month
          @change="rule = onDay(rule, valueOf($event) as DayOfMonth)"
        >
          <option value="date">day of the month</option>
          <option value="working">working day</option>
          <option v-for="w in weekdays" :key="w.day" :value="w.day">{{ w.name }}</option>
        </select>
      </template>
      <span>at</span>
      <input
        class="field !w-auto py-0.5"
        type="time"
        required
        aria-label="At what time"
        :value="rule.at"
        data-at
        @change="set({ at: valueOf($event) })"
      />
    </div>
    <div
      v-if="rule.every === 'week'"
      class="mt-2 flex flex-wrap gap-1"
      role="group"
      aria-label="On which days"
    >
      <label
        v-for="w in weekdays"
        :key="w.day"
        class="cursor-pointer border border-rule px-2 py-0.5 text-[13px] has-focus-visible:outline-2 has-focus-visible:outline-mulberry"
        :class="rule.on?.includes(w.day) ? 'bg-mulberry-wash font-medium' : 'text-mute'"
        ><input
          type="checkbox"
          class="sr-only"
          :aria-label="w.name"
          :checked="rule.on?.includes(w.day)"
          :data-weekday="w.day"
          @change="rule = toggled(rule, w.day)"
        />{{ w.short }}</label
      >
    </div>
    <p v-if="wrong" class="mt-1 text-mulberry" role="alert">{{ wrong }}</p>
    <p v-else-if="said.data.value" class="quiet mt-1 text-[13px]" data-rule-words>
      <span class="font-serif">{{ said.data.value.words }}</span>: {{ said.data.value.coming.join(' · ') }}
    </p>
  </fieldset>
</template>
