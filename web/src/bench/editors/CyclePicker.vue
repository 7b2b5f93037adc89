<script setup lang="ts">
/** Ticks weekdays, or hours of the day. */
const values = defineModel<string[]>()
const props = defineProps<{ hours: boolean }>()
const days = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday']
const choices = props.hours
  ? Array.from({ length: 24 }, (_, i) => ({ value: String(i), label: `${String(i).padStart(2, '0')}:00` }))
  : days.map((d) => ({ value: d, label: d }))
const ticked = (v: string) => !!values.value?.includes(v)
function toggle(v: string) {
  values.value = choices.map((c) => c.value).filter((x) => (x === v ? !ticked(x) : ticked(x)))
}
</script>

<template>
  <div class="grid gap-x-3 gap-y-1" :class="hours ? 'grid-cols-6' : 'grid-cols-4'" data-cycle>
    <label v-for="c in choices" :key="c.value" class="flex items-center gap-1.5"
      ><input
        type="checkbox"
        class="size-4 accent-mulberry"
        :checked="ticked(c.value)"
        @change="toggle(c.value)"
      />
      {{ c.label }}</label
    >
  </div>
</template>
