<script setup lang="ts">
/** Which columns are taken; all, to begin with. */
const left = defineModel<string[]>({ required: true })
defineProps<{ columns: readonly { key: string; heading: string }[] }>()

function toggle(key: string) {
  left.value = left.value.includes(key) ? left.value.filter((k) => k !== key) : [...left.value, key]
}
</script>

<template>
  <fieldset>
    <legend class="mb-1 font-medium">Columns</legend>
    <div class="grid max-h-52 gap-0.5 overflow-auto">
      <label v-for="c in columns" :key="c.key" class="flex items-baseline gap-1.5"
        ><input
          type="checkbox"
          class="accent-mulberry"
          :checked="!left.includes(c.key)"
          :data-column="c.key"
          @change="toggle(c.key)"
        /><span class="truncate" :title="c.heading">{{ c.heading }}</span></label
      >
    </div>
  </fieldset>
</template>
