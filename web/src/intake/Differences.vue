<script setup lang="ts">
import { computed } from 'vue'
import type { RecordSet, Schemas } from '../api/client'
import { formatCount } from '../words'

/** What a later file would change of the records that are there. */
const props = defineProps<{ differences: Schemas['Differences']; target: RecordSet }>()
const missing = defineModel<'leave' | 'remove' | 'replace'>({ required: true })
const more = (n: number, shown: number) => (n > shown ? ` and ${formatCount(n - shown)} more` : '')
const kinds = computed(() => {
  const d = props.differences
  return [
    { key: 'new', n: d.new, words: 'new', names: d.newOnes },
    { key: 'missing', n: d.missing, words: 'not in the file', names: d.missingOnes },
  ].filter((k) => k.n)
})
</script>

<template>
  <div class="mb-3" data-differences>
    <p class="mb-2 flex flex-wrap gap-x-6">
      <span data-new
        ><b class="font-medium">{{ formatCount(differences.new) }}</b> new</span
      >
      <span data-changed
        ><b class="font-medium">{{ formatCount(differences.changed) }}</b> changed</span
      >
      <span data-same
        ><b class="font-medium">{{ formatCount(differences.same) }}</b> as they are</span
      >
      <span data-missing
        ><b class="font-medium">{{ formatCount(differences.missing) }}</b> not in the file</span
      >
    </p>
    <table v-if="differences.changedOnes.length" class="mb-2 text-[13px]" aria-label="The first changes">
      <tbody>
        <tr v-for="(c, i) in differences.changedOnes" :key="i" class="border-b border-rule">
          <th class="py-0.5 pr-5 text-left font-medium">{{ c.key }}</th>
          <td class="quiet pr-5">{{ c.field }}</td>
          <td class="pr-2 text-right line-through decoration-mulberry">{{ c.before || 'nothing' }}</td>
          <td class="quiet pr-2">→</td>
          <td>{{ c.after || 'nothing' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-for="k in kinds" :key="k.key" class="text-[13px]">
      <span class="quiet">{{ k.words }}:</span> {{ k.names.join(', ') }}{{ more(k.n, k.names.length) }}
    </p>
    <fieldset class="mt-3 flex flex-wrap gap-x-6 gap-y-1">
      <legend class="sr-only">What becomes of those that are missing</legend>
      <label class="flex items-baseline gap-2"
        ><input v-model="missing" type="radio" value="leave" class="accent-mulberry" name="missing" />what is
        not in the file stays</label
      ><label class="flex items-baseline gap-2"
        ><input v-model="missing" type="radio" value="remove" class="accent-mulberry" name="missing" />it
        goes</label
      ><label class="flex items-baseline gap-2"
        ><input v-model="missing" type="radio" value="replace" class="accent-mulberry" name="missing" />the
        file takes the place of everything</label
      >
    </fieldset>
  </div>
</template>
