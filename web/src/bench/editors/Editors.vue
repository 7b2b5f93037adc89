<script setup lang="ts">
import { computed } from 'vue'
import Popover from '../../shell/Popover.vue'
import { useBench } from '../bench'
import { filters } from '../editing/editing'
import { popovers } from './popovers'

/** The editor that is open, hanging from its phrase. */
const bench = useBench()
const { editor } = bench
const open = computed(() => editor.editing.value)
const spec = computed(() => open.value && popovers[open.value.kind])
/** Each opening, and each condition within one, has an editor of its own. */
const opening = computed(() => {
  const now = open.value
  return now && `${editor.count.value} ${now.kind} ${filters(now) ? now.place : ''}`
})
</script>

<template>
  <Popover
    v-if="open && spec"
    :key="opening!"
    :anchor="open.anchor"
    :label="spec.label"
    :tone="spec.tone"
    :width="spec.width"
    :tall="spec.tall"
    :busy="editor.settling.value"
    @keep="editor.keepAnswered"
    @revert="editor.revert"
  >
    <component :is="spec.component" v-bind="spec.props(open, bench)" />
    <template v-if="bench.sharing.trouble.value" #foot
      ><span class="text-mulberry" role="alert">{{ bench.sharing.trouble.value }}</span></template
    >
  </Popover>
</template>
