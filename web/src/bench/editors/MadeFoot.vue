<script setup lang="ts">
/** What can be done with a field that the view makes, at the foot of its editor. */
defineProps<{
  /** It is right as it stands. */
  right: boolean
  /** The view has it already. */
  there: boolean
  /** Records can be kept by it from here. */
  filters?: boolean
}>()
const emit = defineEmits<{ share: []; remove: []; filter: [] }>()
</script>

<template>
  <p class="mt-3 flex gap-5 border-t border-rule pt-3">
    <button v-if="filters" class="link" :disabled="!right" data-keep-by @click="emit('filter')">
      Keep only …
    </button>
    <button
      class="link"
      :disabled="!right"
      data-share
      title="Every view of these records can use it"
      @click="emit('share')"
    >
      Save for all views
    </button>
    <button v-if="there" class="link ml-auto" @click="emit('remove')">Take out of this view</button>
  </p>
</template>
