<script setup lang="ts" generic="T extends string">
/** What can be taken of a field, of which one is chosen. */
defineProps<{ takes: readonly { take: T; label: string }[]; chosen: string }>()
const emit = defineEmits<{ choose: [take: T] }>()
</script>

<template>
  <button
    v-for="t in takes"
    :key="t.take"
    class="border-b-2 pb-0.5"
    :aria-pressed="t.take === chosen"
    :data-take="t.take"
    :class="t.take === chosen ? 'border-mulberry font-medium text-mulberry' : 'quiet border-transparent'"
    @click="emit('choose', t.take)"
  >
    {{ t.label }}
  </button>
</template>
