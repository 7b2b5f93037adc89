<script setup lang="ts">
import type { Phrase } from '../../api/client'
import { formatCount } from '../../words'

/** What a condition leaves and takes away, and what can be done with it. */
defineProps<{ step: Phrase['step']; fault: string }>()
const emit = defineEmits<{ remove: []; beside: [kind: 'all' | 'any'] }>()
</script>

<template>
  <div>
    <p v-if="fault" class="mt-3 text-mulberry" role="alert">{{ fault }}</p>
    <p class="mt-3 flex flex-wrap items-baseline gap-x-5">
      <span v-if="step" data-effect
        >leaves <b class="text-mulberry">{{ formatCount(step.left) }}</b>, alone takes away
        <b class="text-mulberry">{{ formatCount(step.alone) }}</b></span
      >
      <span v-if="step?.blanksKept" class="quiet">{{ formatCount(step.blanksKept) }} blanks are kept</span>
    </p>
    <p class="mt-3 flex gap-5 border-t border-rule pt-3">
      <button class="link" @click="emit('beside', 'any')">or …</button>
      <button class="link" @click="emit('beside', 'all')">and …</button>
      <button class="link ml-auto" @click="emit('remove')">Remove</button>
    </p>
  </div>
</template>
