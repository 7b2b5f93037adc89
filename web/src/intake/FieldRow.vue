<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import type { FileLook, FileRecipe, RecipeField, RecordSet } from '../api/client'
import { queries } from '../api/queries'
import { formatCount } from '../words'
import { troubleOf, withField, withKey, withLink, withType } from './recipe'

/** One column of a file: what it is called, its type, and what is in it. */
const props = defineProps<{
  at: number
  recipe: FileRecipe
  look: FileLook
  updating: boolean
  sets: readonly RecordSet[]
}>()
const emit = defineEmits<{ change: [recipe: FileRecipe] }>()
const field = computed(() => props.recipe.fields[props.at]!)
const look = computed(() => props.look.fields[props.at])
const trouble = computed(() => (look.value ? troubleOf(field.value, look.value) : ''))
const ways = computed(() => look.value?.choices.find((c) => c.type === field.value.type)?.ways ?? [])
const value = (event: Event) => (event.target as HTMLInputElement | HTMLSelectElement).value
const put = (change: Partial<RecipeField>) => emit('change', withField(props.recipe, props.at, change))
const keyed = computed(() => !!props.recipe.by?.includes(field.value.key))
const open = computed(() => (field.value.out ? [] : (look.value?.open ?? [])))

// A link: to other records that hold the same in a field.
const link = computed(() => props.recipe.links?.findIndex((l) => l.by === field.value.key) ?? -1)
const now = computed(() => props.recipe.links?.[link.value])
const linking = ref(false)
const to = ref('')
const target = computed(() => now.value?.to ?? to.value)
const fields = useQuery(computed(() => queries.fields(target.value)))
const keys = computed(() =>
  (fields.data.value?.fields ?? []).filter((f) => !f.way.length && !f.kind && f.unique),
)
const unmatched = computed(() => props.look.unmatched[link.value])
function lead(into: string) {
  if (into) emit('change', withLink(props.recipe, field.value.key, target.value, into))
}
function unlink() {
  linking.value = false
  to.value = ''
  emit('change', withLink(props.recipe, field.value.key, '', ''))
}
</script>

<template>
  <tr
    class="border-b border-rule align-baseline"
    :class="field.out && 'quiet'"
    :data-field="field.heading"
    :data-type="field.out ? 'out' : field.type"
  >
    <td class="py-1.5">
      <input
        type="checkbox"
        class="accent-mulberry"
        :checked="!field.out"
        :disabled="!look?.there"
        :aria-label="`${field.heading} comes in`"
        @change="put({ out: !field.out })"
      />
    </td>
    <td class="pr-4">
      <input
        class="field py-0.5"
        name="label"
        maxlength="80"
        :value="field.label"
        :disabled="field.out"
        :aria-label="`What ${field.heading} is called`"
        @change="put({ label: value($event).trim() || field.heading })"
      />
      <span v-if="field.label !== field.heading" class="quiet block truncate text-xs" :title="field.heading"
        >{{ field.heading }} in the file</span
      >
      <span v-if="look?.new" class="block text-xs text-pine">new in this file</span>
    </td>
    <td class="pr-4">
      <span class="flex flex-wrap gap-2">
        <select
          class="field !w-auto py-0.5"
          name="type"
          :value="field.type"
          :disabled="field.out"
          :aria-label="`Type of ${field.label}`"
          @change="look && emit('change', withType(recipe, at, look, value($event) as RecipeField['type']))"
        >
          <option v-for="c in look?.choices" :key="c.type" :value="c.type">{{ c.name }}</option>
        </select>
        <select
          v-if="ways.length > 1 && !field.out"
          class="field !w-auto py-0.5"
          name="way"
          :value="field.way"
          :aria-label="`How ${field.label} is written`"
          @change="put({ way: value($event) })"
        >
          <option v-for="w in ways" :key="w.key" :value="w.key">{{ w.words }}</option>
        </select>
        <input
          v-if="field.type === 'money' && !field.out"
          class="field !w-16 py-0.5"
          name="currency"
          maxlength="3"
          placeholder="EUR"
          :value="field.currency"
          :aria-label="`Currency of ${field.label}`"
          @change="put({ currency: value($event).trim().toUpperCase() || undefined })"
        />
      </span>
      <span v-if="open.length" class="mt-1 block text-[13px] text-honey" data-open
        >Could be
        <template v-for="(o, i) in open" :key="o.way"
          ><template v-if="i">{{ i === open.length - 1 ? ' or ' : ', ' }}</template
          ><button class="link" @click="put({ type: o.type, way: o.way })">{{ o.words }}</button></template
        >?</span
      >
    </td>
    <td>
      <input
        type="checkbox"
        class="accent-mulberry"
        name="key"
        :checked="keyed"
        :disabled="field.out || updating"
        :aria-label="`${field.label} tells the records apart`"
        @change="emit('change', withKey(recipe, field.key, !keyed))"
      />
    </td>
    <td class="max-w-0">
      <span class="flex gap-3">
        <span class="quiet min-w-0 flex-1 truncate" :title="look?.samples.join(' · ')">{{
          look?.samples.join(' · ')
        }}</span>
        <button
          v-if="!field.out && !now && !linking"
          class="link text-xs whitespace-nowrap"
          :aria-label="`link ${field.label} to other records`"
          @click="linking = true"
        >
          link
        </button>
      </span>
      <span v-if="trouble && look?.misfits" class="block text-[13px] text-mulberry" data-misfits
        >{{ trouble }}:
        <template v-for="(m, i) in look.examples" :key="i"
          >{{ i ? ', ' : '' }}“{{ m.text }}”<template v-if="props.look.whole">
            in line {{ m.line }}</template
          ></template
        ><template v-if="look.misfits > look.examples.length"> …</template></span
      >
      <span v-else-if="trouble" class="block text-[13px] text-honey">{{ trouble }}</span>
      <span v-if="now || linking" class="mt-1 flex flex-wrap items-baseline gap-2 text-[13px]">
        leads to
        <select
          class="field !w-auto py-0.5"
          name="link-to"
          :value="target"
          :disabled="!!now"
          :aria-label="`Records that ${field.label} leads to`"
          @change="to = value($event)"
        >
          <option value="" disabled>choose records</option>
          <option v-for="s in sets" :key="s.key" :value="s.key">{{ s.label }}</option>
        </select>
        by their
        <select
          class="field !w-auto py-0.5"
          name="link-into"
          :value="now?.into ?? ''"
          :disabled="!target"
          :aria-label="`Their field that holds the same as ${field.label}`"
          @change="lead(value($event))"
        >
          <option value="" disabled>field</option>
          <option v-for="k in keys" :key="k.path" :value="k.path">{{ k.label }}</option>
        </select>
        <button class="link" @click="unlink">take away</button>
        <span v-if="unmatched?.why" class="w-full text-mulberry">No link: {{ unmatched.why }}.</span>
        <span v-else-if="unmatched?.values" class="w-full text-honey" data-unmatched
          >{{ formatCount(unmatched.values) }}
          {{ unmatched.values === 1 ? 'value leads' : 'values lead' }} nowhere ({{
            formatCount(unmatched.rows)
          }}
          {{ unmatched.rows === 1 ? 'row' : 'rows' }}):
          <span class="inline-block max-h-20 overflow-auto align-top">{{
            unmatched.examples.join(', ') + (unmatched.values > unmatched.examples.length ? ' …' : '')
          }}</span></span
        >
        <span v-else-if="now && unmatched" class="w-full text-pine" data-matched
          >Every value leads to a record.</span
        >
      </span>
    </td>
  </tr>
</template>
