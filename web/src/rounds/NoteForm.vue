<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from 'vue'

/** A note for the others who look. */
const props = defineProps<{ label: string; act: string; busy: boolean; start?: string }>()
const emit = defineEmits<{ keep: [note: string]; close: [] }>()
const note = ref(props.start ?? '')
const box = useTemplateRef('box')
onMounted(() => box.value?.focus())
</script>

<template>
  <form class="flex min-w-0 flex-1 items-center gap-2" @submit.prevent="emit('keep', note)">
    <input
      ref="box"
      v-model="note"
      class="field min-w-0 flex-1 py-0.5 text-[13px]"
      maxlength="2000"
      placeholder="what the others should know"
      :aria-label="label"
      data-note
      @keydown.esc.stop="emit('close')"
    />
    <button type="submit" class="button" :disabled="busy" data-keep-note>{{ act }}</button>
  </form>
</template>
