<script setup lang="ts">
import type { Condition, Document, Field } from '../../api/client'
import { newQuestion } from './answers'

/** Leaves a condition open for whoever runs the view. */
const props = defineProps<{ ask: Condition['ask']; field: Field; document: Document }>()
const emit = defineEmits<{ change: [ask: Condition['ask']] }>()
const begin = () => emit('change', newQuestion(props.document, props.field))
const set = (change: Partial<NonNullable<Condition['ask']>>) =>
  props.ask && emit('change', { ...props.ask, ...change })
const typed = (event: Event) => (event.target as HTMLInputElement).value.trim()
</script>

<template>
  <section class="mt-3 border-t border-rule pt-2 text-[13px]" data-ask-form>
    <label class="inline-flex items-baseline gap-1.5"
      ><input
        type="checkbox"
        class="accent-mulberry"
        :checked="!!ask"
        data-ask
        @change="ask ? emit('change', undefined) : begin()"
      />
      Ask the reader <kbd class="key">a</kbd></label
    >
    <template v-if="ask">
      <span class="quiet ml-3">What stands above is proposed; leave it empty to propose nothing.</span>
      <div class="mt-2 grid grid-cols-[5rem_1fr] items-baseline gap-x-3 gap-y-1.5">
        <label for="ask-label" class="quiet">Question</label
        ><input
          id="ask-label"
          class="field py-0.5"
          maxlength="120"
          :value="ask.label"
          data-ask-label
          @change="set({ label: typed($event) || ask!.label })"
        />
        <label for="ask-help" class="quiet">Help</label
        ><input
          id="ask-help"
          class="field py-0.5"
          maxlength="400"
          :value="ask.help ?? ''"
          @change="set({ help: typed($event) || undefined })"
        />
      </div>
      <label class="mt-1.5 inline-flex items-baseline gap-1.5"
        ><input
          type="checkbox"
          class="accent-mulberry"
          :checked="!!ask.required"
          data-ask-required
          @change="set({ required: !ask!.required || undefined })"
        />
        the view waits for an answer</label
      >
      <span class="quiet ml-3"
        >answered as <code>{{ ask.name }}</code> in links and on the command line</span
      >
    </template>
  </section>
</template>
