<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Field } from '../api/client'
import FillForm from './FillForm.vue'
import type { Filled } from './useFilling'

/** Fills in a fact of one record where its value stands, or one of several facts that are chosen first. */
const props = defineProps<{
  set: string
  one: string
  many: string
  fields: readonly Field[]
  records: readonly string[]
}>()
const emit = defineEmits<{ filled: [filled: Filled] }>()
const fillable = computed(() => props.fields.filter((f) => f.fillIn && !f.way.length))
const open = ref('')
const field = computed(() => fillable.value.find((f) => f.path === open.value))
function done(filled: Filled | null) {
  open.value = ''
  if (filled) emit('filled', filled)
}
</script>

<template>
  <div v-if="fillable.length" data-fact-fields>
    <FillForm
      v-if="field"
      :key="`${field.path} ${records.join('\n')}`"
      class="border-l-2 border-mulberry bg-sheet p-3"
      :set="set"
      :one="one"
      :many="many"
      :field="field"
      :records="records"
      @done="done"
    />
    <p v-else class="flex flex-wrap gap-x-4 text-[13px]">
      <span class="quiet">Fill in</span>
      <button
        v-for="f in fillable"
        :key="f.path"
        class="link"
        :data-fill-field="f.path"
        @click="open = f.path"
      >
        {{ f.label.toLowerCase() }}
      </button>
    </p>
  </div>
</template>
