<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../api/client'
import { formatDateTime } from '../words'

/** What was put into the bin: each can be taken back as it was, or deleted for ever. */
defineProps<{ views: readonly Schemas['BinnedView'][] }>()
const emit = defineEmits<{ back: [key: string]; forever: [key: string] }>()
const sure = ref('')
</script>

<template>
  <section class="mt-10 max-w-3xl" aria-labelledby="bin" data-bin>
    <h2 id="bin" class="border-b border-rule pb-1 font-medium text-mute">Your bin</h2>
    <ul>
      <li v-for="v in views" :key="v.key" class="flex items-baseline gap-4 border-b border-rule py-1.5">
        <span class="min-w-0 flex-1 truncate">{{ v.name }}</span><span class="quiet text-xs">{{
          formatDateTime(v.at)
        }}</span>
        <button class="link text-[13px]" data-back @click="emit('back', v.key)">take back</button>
        <button v-if="sure !== v.key" class="link text-[13px]" @click="sure = v.key">delete …</button>
        <button v-else class="link text-[13px] font-medium" data-forever @click="emit('forever', v.key)">
          delete for ever, with every version
        </button>
      </li>
    </ul>
  </section>
</template>
