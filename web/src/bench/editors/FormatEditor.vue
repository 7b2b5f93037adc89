<script setup lang="ts">
import type { Field, Format } from '../../api/client'

/** How the values of a column are written. */
const props = defineProps<{ field: Field; format: Format | undefined }>()
const emit = defineEmits<{ change: [format: Format | undefined] }>()

const dates = [
  ['', '23 Nov 2026'],
  ['weekday', 'Mon 23 Nov 2026'],
  ['iso', '2026-11-23'],
  ['day_month', '23 Nov'],
  ['month', 'Nov 2026'],
  ['year', '2026'],
] as const
const moments = [
  ['date_only', '23 Nov 2026, no time'],
  ['time_only', '14:05, no date'],
] as const
const number = ['whole', 'decimal', 'money', 'percent'].includes(props.field.type)

function set(change: Partial<Format>) {
  const next = { ...props.format, ...change }
  const kept = Object.fromEntries(Object.entries(next).filter(([, v]) => v !== undefined)) as Format
  emit('change', Object.keys(kept).length ? kept : undefined)
}
const text = (event: Event) => (event.target as HTMLInputElement).value
const decimals = (event: Event) =>
  text(event) === '' ? undefined : Math.max(0, Math.min(6, Math.round(Number(text(event)) || 0)))
</script>

<template>
  <span class="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-xs">
    <label v-if="field.type === 'date' || field.type === 'datetime'" class="flex items-baseline gap-1.5"
      ><span class="quiet">Written as</span>
      <select
        class="field !w-auto py-0.5"
        :value="format?.date ?? ''"
        data-date-format
        @change="set({ date: (text($event) || undefined) as Format['date'] })"
      >
        <option v-for="[value, example] in dates" :key="value" :value="value">{{ example }}</option>
        <template v-if="field.type === 'datetime'"
          ><option v-for="[value, example] in moments" :key="value" :value="value">
            {{ example }}
          </option></template
        >
      </select></label
    >
    <label v-if="field.type === 'duration'" class="flex items-baseline gap-1.5"
      ><span class="quiet">Written as</span>
      <select
        class="field !w-auto py-0.5"
        :value="format?.duration ?? ''"
        @change="
          set({
            duration: (text($event) || undefined) as Format['duration'],
            decimals: text($event) ? format?.decimals : undefined,
          })
        "
      >
        <option value="">hours and minutes, 1:30</option>
        <option value="hours">hours, 1.5 h</option>
        <option value="days">days, 0.1 d</option>
      </select></label
    >
    <label
      v-if="number || (field.type === 'duration' && format?.duration)"
      class="flex items-baseline gap-1.5"
      ><span class="quiet">Decimals</span>
      <input
        class="field !w-16 py-0.5"
        type="number"
        min="0"
        max="6"
        placeholder="usual"
        :value="format?.decimals ?? ''"
        data-decimals
        @change="set({ decimals: decimals($event) })"
    /></label>
    <label v-if="number && field.type !== 'percent'" class="flex items-baseline gap-1.5"
      ><span class="quiet">In</span>
      <select
        class="field !w-auto py-0.5"
        :value="format?.in ?? ''"
        data-in
        @change="set({ in: (text($event) || undefined) as Format['in'] })"
      >
        <option value="">ones</option>
        <option value="thousands">thousands</option>
        <option value="millions">millions</option>
      </select></label
    >
    <label v-if="number" class="flex items-baseline gap-1.5"
      ><input
        type="checkbox"
        :checked="!!format?.plain"
        @change="set({ plain: !format?.plain || undefined })"
      />{{ ' ' }} <span class="quiet">no comma between thousands</span></label
    >
  </span>
</template>
