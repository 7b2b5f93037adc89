<script setup lang="ts">
/** Words of the board's own. The server leaves nothing in them that acts; see internal/web/markdown.go. */
defineProps<{ html: string; name: string }>()
</script>

<template>
  <!-- eslint-disable vue/no-v-html -->
  <div
    class="board-text size-full overflow-auto px-3 py-2"
    tabindex="0"
    role="group"
    :aria-label="name"
    v-html="html"
  ></div>
</template>
