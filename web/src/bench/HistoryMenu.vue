<script setup lang="ts">
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
import { computed, ref } from 'vue'
import { api, unwrap } from '../api/client'
import type { History } from './useHistory'

/** Every step that led here, in words; a click goes back or forward to it. */
const props = defineProps<{ history: History }>()
const words = ref(new Map<string, string>())
const steps = computed(() =>
  props.history.steps.value
    .map((s, i) => ({ ...s, i, words: words.value.get(s.key) ?? (i ? '…' : 'As it was opened') }))
    .reverse(),
)

/** The words of a step are asked for once, when the list is first looked at. */
async function name() {
  const list = props.history.steps.value
  for (const [i, step] of list.entries()) {
    const before = list[i - 1]
    if (!before || words.value.has(step.key)) continue
    const said = await unwrap(
      api.POST('/api/changes', { body: { from: before.document, to: step.document } }),
    ).then(
      (x) => x.changes.join('; '),
      () => 'a step that cannot be worked out any more',
    )
    words.value = new Map(words.value).set(step.key, said || 'nothing that the numbers show')
  }
}
</script>

<template>
  <Menu as="div" class="relative">
    <MenuButton class="button" :disabled="history.steps.value.length < 2" data-steps @click="name"
      >Steps</MenuButton
    >
    <MenuItems
      class="absolute right-0 z-40 mt-1 max-h-96 w-96 overflow-auto border border-rule bg-sheet py-1 shadow-lg"
    >
      <MenuItem v-for="s in steps" :key="s.i" v-slot="{ active }">
        <button
          class="flex w-full items-baseline gap-3 px-3 py-1.5 text-left text-[13px]"
          :class="[active && 'bg-mulberry-wash', s.i > history.at.value && 'quiet']"
          :aria-current="s.i === history.at.value ? 'step' : undefined"
          data-step
          @click="history.goTo(s.i)"
        >
          <span class="w-3 shrink-0 text-mulberry">{{ s.i === history.at.value ? '›' : '' }}</span><span
            class="line-clamp-2"
            >{{ s.words }}</span
          >
        </button>
      </MenuItem>
    </MenuItems>
  </Menu>
</template>
