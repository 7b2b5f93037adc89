<script setup lang="ts">
import { DialogTitle } from '@headlessui/vue'
import DialogFrame from '../shell/DialogFrame.vue'

const emit = defineEmits<{ close: [] }>()
const keys = [
  ['/  or  c', 'find a field and add it as a column'],
  ['f', 'filter'],
  ['g', 'group'],
  ['s', 'sort by the selected column; again turns it round'],
  ['t', 'total the selected column'],
  ['=', 'calculate a field'],
  ['b', 'put the selected column into buckets'],
  ['x', 'compare with another period'],
  ['a', 'ask the reader'],
  ['h', 'chart the groups, or take the chart away'],
  ['arrows', 'move in the ledger'],
  ['Shift arrows', 'choose a block of cells'],
  ['Ctrl C', 'copy the chosen cells, for a spreadsheet'],
  ['Space', 'tick a record, or all of a block'],
  ['Enter', 'open or close a group, open a record; keep what an editor shows'],
  ['Esc', 'take back what an editor shows'],
  ['[   ]', 'close and open a level'],
  ['Ctrl K', 'find any view, field, record set, definition or command'],
  ['Ctrl S', 'save'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['?', 'this list'],
]
</script>

<template>
  <DialogFrame top="pt-24" class="max-h-[80vh] w-[520px] overflow-auto border-t-ink" @close="emit('close')">
    <DialogTitle class="heading mb-3 text-xl">Keys</DialogTitle>
    <dl class="grid grid-cols-[8rem_1fr] gap-y-1.5">
      <template v-for="[key, what] in keys" :key="key"
        ><dt>
          <kbd class="key">{{ key }}</kbd>
        </dt>
        <dd>{{ what }}</dd></template
      >
    </dl>
    <p class="mt-5 text-right"><button class="button" @click="emit('close')">Close</button></p>
  </DialogFrame>
</template>
