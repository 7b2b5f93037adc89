<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Field } from '../api/client'
import Popover from '../shell/Popover.vue'
import FillForm from './FillForm.vue'
import type { Filled } from './useFilling'

/** Fills a fact in where its cell stands. */
defineProps<{
  set: string
  one: string
  many: string
  field: Field
  record: string
  anchor: HTMLElement
  typed?: string
}>()
const emit = defineEmits<{ done: [filled: Filled | null] }>()
const form = useTemplateRef('form')
</script>

<template>
  <Popover
    :anchor="anchor"
    :label="`Fill in ${field.label}`"
    tone="honey"
    :width="440"
    @keep="form?.write()"
    @revert="emit('done', null)"
  >
    <FillForm
      ref="form"
      bare
      :set="set"
      :one="one"
      :many="many"
      :field="field"
      :records="[record]"
      :typed="typed"
      @done="emit('done', $event)"
    />
  </Popover>
</template>
