<script setup lang="ts">
import type { Phrase, Schemas } from '../../api/client'
import StepEffect from './StepEffect.vue'

/** A condition that keeps what another view keeps. Its filter was taken along when it was chosen. */
defineProps<{ within: Schemas['Within']; phrase: Phrase | undefined; fault: string }>()
const emit = defineEmits<{ remove: []; beside: [kind: 'all' | 'any'] }>()
</script>

<template>
  <div>
    <h2 class="heading mb-2 text-base">
      {{ within.view ? `What the view “${within.view}” keeps` : 'What another view keeps' }}
    </h2>
    <p class="quiet">
      {{
        within.filter
          ? 'Its filter was taken along as it stood: this view stays the same when the other is changed.'
          : 'It keeps all records.'
      }}
    </p>
    <StepEffect
      :step="phrase?.step"
      :fault="fault"
      @remove="emit('remove')"
      @beside="emit('beside', $event)"
    />
  </div>
</template>
