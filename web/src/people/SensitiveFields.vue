<script setup lang="ts">
import { computed, ref } from 'vue'
import { wordsOf } from '../api/problem'
import NewFields from './NewFields.vue'
import type { Managing, NewField, SetFields } from './usePeople'

/** Marks fields as sensitive: only administrators and groups that may see such fields see them. */
const props = defineProps<{
  sets: readonly SetFields[]
  fresh: readonly NewField[]
  lost: readonly string[]
  managing: Managing
}>()
const { sensitive } = props.managing
const words = ref('')
const found = computed(() =>
  props.sets
    .map((s) => ({
      ...s,
      fields: s.fields.filter((f) =>
        `${s.label} ${f.label}`.toLowerCase().includes(words.value.trim().toLowerCase()),
      ),
    }))
    .filter((s) => s.fields.length),
)
</script>

<template>
  <section aria-label="Sensitive and new fields">
    <NewFields :fresh="fresh" :lost="lost" :managing="managing" />
    <p class="mb-3 max-w-3xl">
      A marked field is seen by administrators, and by the members of groups that may see sensitive fields.
      From everybody else it is kept, in views, look-ups, searches and exports.
    </p>
    <input
      v-model="words"
      class="field mb-4 max-w-sm"
      type="search"
      placeholder="Find a field"
      aria-label="Find a field"
    />
    <p v-if="sensitive.error.value" class="mb-3 text-mulberry" role="alert">
      {{ wordsOf(sensitive.error.value) }}
    </p>
    <div class="columns-4 gap-10">
      <fieldset v-for="s in found" :key="s.key" class="mb-5 break-inside-avoid">
        <legend class="mb-1 w-full border-b border-rule font-medium text-mute">{{ s.label }}</legend>
        <label
          v-for="f in s.fields"
          :key="f.key"
          class="flex items-baseline gap-2 py-0.5"
          :class="f.sensitive && 'font-medium text-honey'"
          ><input
            type="checkbox"
            class="accent-mulberry"
            :checked="f.sensitive"
            :data-sensitive="`${s.key}.${f.key}`"
            @change="sensitive.mutate({ set: s.key, field: f.key, on: !f.sensitive })"
          />{{ f.label }}</label
        >
      </fieldset>
    </div>
  </section>
</template>
