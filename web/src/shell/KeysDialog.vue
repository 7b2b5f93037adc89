<script setup lang="ts">
import { computed } from 'vue'
import { allCommands, shownKey, typesSomething, useSingleKeys } from './commands'
import DialogFrame from './DialogFrame.vue'

/** The keys that do something on the screen that is open; those of one character can be turned off. */
const emit = defineEmits<{ close: [] }>()
const single = useSingleKeys()
const rows = computed(() => allCommands.value.filter((c) => c.key))
const off = (key: string) => !single.value && key.split('  ').every(typesSomething)
</script>

<template>
  <DialogFrame title="Keys" :width="860" @close="emit('close')">
    <dl class="columns-2 gap-x-8 max-md:columns-1">
      <div v-for="c in rows" :key="c.id" class="grid break-inside-avoid grid-cols-[8rem_1fr] py-1">
        <dt :class="off(c.key!) && 'opacity-60'">
          <kbd class="key">{{ shownKey(c.key!) }}</kbd>
        </dt>
        <dd :class="off(c.key!) && 'quiet line-through'">{{ c.title }}</dd>
      </div>
    </dl>
    <label class="mt-5 flex items-baseline gap-2 border-t border-rule pt-3">
      <input v-model="single" type="checkbox" class="accent-mulberry" data-single-keys />
      Keys of one character work; turn them off where they get in the way of speech or of another tool
    </label>
  </DialogFrame>
</template>
