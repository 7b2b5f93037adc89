<script setup lang="ts">
import { computed, ref } from 'vue'
import { wordsOf } from '../api/problem'
import { useHeld } from '../shell/useHeld'
import LimitRow from './LimitRow.vue'
import type { Limit, Managing, PeopleGroup } from './usePeople'

/** One group: what its members do not see of each record set. Limits of several groups add up. */
const props = defineProps<{ group: PeopleGroup | null; managing: Managing }>()
const emit = defineEmits<{ added: [id: number]; renew: [] }>()
const { groups, addGroup, changeGroup, removeGroup } = props.managing
const name = ref(props.group?.name ?? '')
const description = ref(props.group?.description ?? '')
const sensitive = ref(props.group?.sensitive ?? false)
const limits = ref<readonly Limit[]>(props.group?.limits ?? [])
const sets = computed(() => groups.data.value?.sets ?? [])
const of = (set: string): Limit => limits.value.find((l) => l.set === set) ?? { set }
const put = (limit: Limit) => (limits.value = [...limits.value.filter((l) => l.set !== limit.set), limit])
const sure = ref(false)
const edited = ref(false)
const { held, newer } = useHeld<PeopleGroup>(
  () => props.group,
  () => edited.value,
  () => emit('renew'),
)
function write() {
  const draft = {
    name: name.value,
    description: description.value,
    sensitive: sensitive.value,
    limits: limits.value
      .filter((l) => l.hidden || l.totals || l.fields?.length || l.rule)
      .map(({ set, hidden, totals, fields, rule }) => ({ set, hidden, totals, fields, rule })),
  }
  if (props.group)
    changeGroup.mutate(
      { ...draft, id: props.group.id, base: held.value?.version ?? 0 },
      { onSuccess: () => emit('renew') },
    )
  else addGroup.mutate(draft, { onSuccess: (g) => emit('added', g.id) })
}
const trouble = computed(() => addGroup.error.value ?? changeGroup.error.value ?? removeGroup.error.value)
</script>

<template>
  <form
    class="max-w-4xl"
    :aria-label="group?.name ?? 'A new group'"
    @submit.prevent="write"
    @input="edited = true"
    @change="edited = true"
  >
    <div class="mb-4 flex items-baseline gap-4">
      <h2 v-if="group?.rest" class="heading text-xl">{{ group.name }}</h2>
      <input
        v-else
        v-model="name"
        class="heading field !w-80 text-xl"
        :class="group && '!border-transparent !bg-transparent !px-0 hover:!border-rule'"
        maxlength="80"
        placeholder="Name of the group"
        aria-label="Name"
        name="group-name"
        required
      />
      <input
        v-model="description"
        class="field flex-1"
        maxlength="400"
        placeholder="What it is for"
        aria-label="What it is for"
      />
    </div>
    <label class="mb-4 flex items-baseline gap-2"
      ><input v-model="sensitive" type="checkbox" class="accent-mulberry" name="group-sensitive" /> Its
      members see fields that are marked as sensitive</label
    >
    <table class="w-full">
      <thead>
        <tr class="border-b border-rule text-left text-mute">
          <th class="w-36 py-1 font-medium">Record set</th>
          <th class="w-72 font-medium">Records that members see</th>
          <th class="font-medium">Fields that are kept from them</th>
        </tr>
      </thead>
      <tbody>
        <LimitRow v-for="s in sets" :key="s.key" :set="s" :limit="of(s.key)" @change="put" />
      </tbody>
    </table>
    <p class="quiet mt-2 text-xs">
      Whoever is in several groups is limited by all of them. Records that belong to hidden ones, such as the
      payments of a hidden booking, are hidden with them. A rule is the filter of a saved view; what it asks
      is answered for each person under “What rules ask”.
    </p>
    <p v-if="newer" class="mt-3 border-l-2 border-honey pl-2" role="status" data-newer>
      Somebody saved this group meanwhile. What you typed is kept here;
      <button type="button" class="link" @click="emit('renew')">look at theirs</button> in its place.
    </p>
    <p v-if="trouble" class="mt-3 text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
    <p class="mt-4 flex items-center gap-4">
      <button
        class="button button-act"
        type="submit"
        data-save-group
        :disabled="addGroup.isPending.value || changeGroup.isPending.value || !name.trim()"
      >
        {{ group ? 'Save' : 'Add the group' }}
      </button>
      <span
        v-if="group && changeGroup.isSuccess.value && changeGroup.data.value?.id === group.id && !edited"
        class="text-pine"
        role="status"
        >saved; it holds from now on</span
      >
      <template v-if="group && !group.rest"
        ><button v-if="!sure" type="button" class="link" @click="sure = true">Remove the group …</button
        ><button
          v-else
          type="button"
          class="link font-medium"
          data-remove-group
          @click="removeGroup.mutate(group.id)"
        >
          remove it; {{ group.members }} will be in it no more, and its limits are gone
        </button></template
      >
    </p>
  </form>
</template>
