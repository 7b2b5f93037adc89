<script setup lang="ts">
import type { Saying } from '../api/client'
import Origin from './Origin.vue'

/** A word about the records, with where it came from and the way back to what the database says. */
const props = defineProps<{
  label: string
  name: string
  /** What the database says, in words. */
  loaded: string
  by: Saying | undefined
  /** It differs from what is kept. */
  changed: boolean
  maxlength: number
  placeholder?: string
  /** What stands here once it is set back; what the database says, if left out. */
  back?: string
  /** There is nothing to go back to. */
  added?: boolean
}>()
const word = defineModel<string>({ required: true })
</script>

<template>
  <label
    ><span class="quiet mb-0.5 block">{{ label }}</span
    ><input
      v-model="word"
      class="field"
      :maxlength="maxlength"
      :name="name"
      :placeholder="placeholder" /><Origin
      v-if="!added"
      :by="by"
      :changed="changed"
      :loaded="loaded"
      @back="word = props.back ?? loaded"
  /></label>
</template>
