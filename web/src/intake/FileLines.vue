<script setup lang="ts">
import { computed } from 'vue'
import type { FileLook, FileSettings } from '../api/client'

/** How a file is read, and its first lines, to choose the one that names the fields. */
const props = defineProps<{ look: FileLook; busy: boolean }>()
const emit = defineEmits<{ readAs: [settings: FileSettings] }>()
const s = computed(() => props.look.settings)
const put = (change: Partial<FileSettings>) =>
  emit('readAs', { ...s.value, heading: undefined, ...change } as FileSettings)
const value = (event: Event) => (event.target as HTMLSelectElement).value
const separators = [
  [',', 'commas'],
  [';', 'semicolons'],
  ['\t', 'tabs'],
  ['|', 'bars'],
] as const
const encodings = [
  ['utf-8', 'UTF-8'],
  ['windows-1252', 'Windows-1252'],
  ['utf-16le', 'UTF-16'],
  ['utf-16be', 'UTF-16, big-endian'],
] as const
const width = computed(() => Math.max(0, ...props.look.first.map((l) => l.cells.length)))
const shown = computed(() => props.look.first.slice(0, Math.max(4, (s.value.heading ?? 1) + 2)))
</script>

<template>
  <section class="mb-5" aria-label="How the file is read" data-file-lines>
    <p class="mb-2 flex flex-wrap items-baseline gap-x-5 gap-y-2">
      <label v-if="look.sheets.length > 1" class="flex items-baseline gap-2"
        ><span class="quiet">Sheet</span
        ><select
          class="field !w-auto py-0.5"
          name="sheet"
          :value="s.sheet"
          @change="put({ sheet: value($event) })"
        >
          <option v-for="name in look.sheets" :key="name">{{ name }}</option>
        </select></label
      >
      <span v-else-if="s.format !== 'separated'" class="quiet">{{ look.words.join(', ') }}</span>
      <template v-if="s.format === 'separated'">
        <label class="flex items-baseline gap-2"
          ><span class="quiet">Values are parted by</span
          ><select
            class="field !w-auto py-0.5"
            name="separator"
            :value="s.separator"
            @change="put({ separator: value($event) })"
          >
            <option v-for="[mark, words] in separators" :key="mark" :value="mark">{{ words }}</option>
          </select></label
        >
        <label class="flex items-baseline gap-2"
          ><span class="quiet">Letters are kept as</span
          ><select
            class="field !w-auto py-0.5"
            name="encoding"
            :value="s.encoding"
            @change="put({ encoding: value($event) as FileSettings['encoding'] })"
          >
            <option v-for="[key, words] in encodings" :key="key" :value="key">{{ words }}</option>
          </select></label
        >
      </template>
      <label v-if="look.first.length" class="flex items-baseline gap-2"
        ><span class="quiet">The fields are named in</span
        ><select
          class="field !w-auto py-0.5"
          name="heading"
          :value="s.heading"
          @change="put({ heading: Number(value($event)) })"
        >
          <option v-for="l in look.first" :key="l.line" :value="l.line">line {{ l.line }}</option>
          <option :value="-1">no line</option>
        </select></label
      >
      <span v-if="busy" class="quiet" role="status">Looking …</span>
    </p>
    <div
      v-if="shown.length"
      class="overflow-x-auto border-y border-rule"
      tabindex="0"
      role="region"
      aria-label="The file as it stands"
    >
      <table class="text-[13px]" aria-label="The first lines of the file">
        <tbody>
          <tr
            v-for="l in shown"
            :key="l.line"
            :class="l.line === s.heading ? 'bg-pine-wash font-medium' : 'quiet'"
          >
            <th class="quiet w-8 pr-3 text-right font-normal">{{ l.line }}</th>
            <td v-for="i in width" :key="i" class="max-w-48 truncate py-0.5 pr-5">{{ l.cells[i - 1] }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-for="notice in look.notices" :key="notice" class="mt-2 border-l-4 border-honey bg-sheet px-3 py-1">
      {{ notice }}
    </p>
  </section>
</template>
