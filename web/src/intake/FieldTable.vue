<script setup lang="ts">
import { computed } from 'vue'
import type { FileLook, RecordSet } from '../api/client'
import { formatCount } from '../words'
import FieldRow from './FieldRow.vue'
import { keysOf } from './recipe'
import type { Intake } from './useIntake'

/** What becomes of each column: its name and type, whether it tells records apart, where it leads. */
const props = defineProps<{
  look: FileLook
  intake: Intake
  /** The file changes records that are there: what they are told apart by stays. */
  updating: boolean
  sets: readonly RecordSet[]
}>()
const recipe = computed(() => props.intake.recipe.value ?? props.look.recipe)
const fits = computed(() => keysOf(props.look))
const offer = computed(() => {
  const fit = recipe.value.fields.find((f) => f.key === fits.value[0])
  return fit ? `${fit.label} is filled in everywhere and nowhere the same: it could be the key.` : ''
})
</script>

<template>
  <section aria-label="The fields" data-file-fields>
    <div class="overflow-x-auto">
      <table class="w-full min-w-3xl">
        <thead>
          <tr class="quiet border-b border-edge text-left text-[13px]">
            <th class="w-8 py-1 font-normal" title="It comes in">in</th>
            <th class="w-52 font-normal">Field</th>
            <th class="w-[29rem] font-normal">Type, and how values are written</th>
            <th class="w-14 font-normal" title="It tells the records apart">key</th>
            <th class="font-normal">Values</th>
          </tr>
        </thead>
        <tbody>
          <FieldRow
            v-for="(f, i) in recipe.fields"
            :key="f.key"
            :at="i"
            :recipe="recipe"
            :look="look"
            :updating="updating"
            :sets="sets"
            @change="intake.change"
          />
        </tbody>
      </table>
    </div>
    <p v-if="look.repeats" class="mt-3 border-l-4 border-honey bg-sheet px-3 py-1" data-repeats>
      {{ look.repeats === 1 ? 'One row repeats' : `${formatCount(look.repeats)} rows repeat` }} the key of an
      earlier one and {{ look.repeats === 1 ? 'is' : 'are' }} kept aside: {{ look.repeated.join('; ') }}
    </p>
    <p v-else-if="!recipe.by?.length && !updating" class="quiet mt-3">
      Without a key each row is a record, and a later file can only take the place of all. {{ offer }}
    </p>
  </section>
</template>
