<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../api/client'

/** Whether what recurs happens only if something is so; always, if there is no trigger. */
const model = defineModel<Schemas['Trigger']>()
const trigger = computed(() => model.value ?? {})
const props = defineProps<{ choices: Schemas['RecurringOutputBody']; since: string }>()
const valueOf = (event: Event) => (event.target as HTMLSelectElement).value
const figure = computed(() =>
  props.choices.figures.findIndex(
    (f) => f.field === (trigger.value.field ?? '') && f.fn === (trigger.value.fn ?? ''),
  ),
)
function choose(on: string) {
  if (on === 'figure') model.value = { on, is: 'over', bound: '0' }
  else model.value = on ? { on: on as 'records' | 'changed' } : undefined
}
function chooseFigure(at: number) {
  const f = props.choices.figures[at]
  if (f) model.value = { ...trigger.value, field: f.field || undefined, fn: f.fn || undefined }
}
</script>

<template>
  <fieldset data-trigger>
    <legend class="mb-1 font-medium">Only if</legend>
    <div class="flex flex-wrap items-baseline gap-x-2 gap-y-1.5">
      <select
        class="field !w-auto py-0.5"
        aria-label="Only if"
        :value="trigger.on ?? ''"
        data-trigger-on
        @change="choose(valueOf($event))"
      >
        <option value="">always</option>
        <option value="records">there are {{ choices.many }}</option>
        <option value="figure">a figure is past a bound</option>
        <option value="changed">something has changed since {{ since }}</option>
      </select>
      <template v-if="trigger.on === 'figure'">
        <select
          class="field !w-auto max-w-56 py-0.5"
          aria-label="Which figure"
          :value="figure"
          data-trigger-figure
          @change="chooseFigure(Number(valueOf($event)))"
        >
          <option v-for="(f, i) in choices.figures" :key="i" :value="i">{{ f.label }}</option>
        </select>
        <select
          class="field !w-auto py-0.5"
          aria-label="Over or under"
          :value="trigger.is"
          @change="model = { ...trigger, is: valueOf($event) as 'over' | 'under' }"
        >
          <option value="over">is over</option>
          <option value="under">is under</option>
        </select>
        <input
          class="field !w-28 py-0.5"
          maxlength="60"
          required
          aria-label="The bound"
          :value="trigger.bound"
          data-trigger-bound
          @input="model = { ...trigger, bound: valueOf($event) }"
        />
      </template>
    </div>
  </fieldset>
</template>
