<script setup lang="ts">
import { toRef } from 'vue'
import type { Document, Field } from '../../api/client'
import { formatCount } from '../../words'
import { useValues } from '../useValues'

/** The values of a text field with their counts, to be collected into the band at hand. */
const props = defineProps<{
  document: Document
  field: Field
  bands: readonly { values: string[] }[]
  active: number
}>()
const emit = defineEmits<{ toggle: [value: string] }>()
const { search, data } = useValues(toRef(props, 'field'), toRef(props, 'document'), 200)
const bandOf = (value: string) => props.bands.findIndex((b) => b.values.includes(value))
</script>

<template>
  <div>
    <input
      v-model="search"
      class="field mb-1 py-0.5"
      type="search"
      placeholder="Find a value"
      aria-label="Find a value"
    />
    <ul class="max-h-56 overflow-auto" aria-label="Values" data-values>
      <li v-for="v in data?.values ?? []" :key="v.value" class="border-b border-rule">
        <label class="flex items-baseline gap-2 py-0.5">
          <input
            type="checkbox"
            :checked="bandOf(v.value) === active"
            :indeterminate="bandOf(v.value) >= 0 && bandOf(v.value) !== active"
            @change="emit('toggle', v.value)"
          />
          <span class="min-w-0 flex-1 truncate">{{ v.label }}</span>
          <span v-if="bandOf(v.value) >= 0 && bandOf(v.value) !== active" class="quiet text-xs"
            >band {{ bandOf(v.value) + 1 }}</span
          >
          <span class="quiet text-xs">{{ formatCount(v.kept) }}</span>
        </label>
      </li>
    </ul>
  </div>
</template>
