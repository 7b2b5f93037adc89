<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { queries } from '../api/queries'
import { useMe } from '../session/useMe'

/** Chooses people and groups. Readers know nobody's name, and choose themselves. */
const people = defineModel<readonly number[]>('people', { required: true })
const groups = defineModel<readonly number[]>('groups', { required: true })
defineProps<{ label: string }>()
const { me } = useMe()
const names = useQuery(computed(() => ({ ...queries.names(), enabled: !!me.value?.saves })))
const known = computed(() =>
  me.value?.saves
    ? (names.data.value?.people ?? [])
    : me.value
      ? [{ id: me.value.id, name: me.value.name }]
      : [],
)
const knownGroups = computed(() => names.data.value?.groups ?? [])
const called = (p: { id: number; name: string }) => (p.id === me.value?.id ? `${p.name} (you)` : p.name)
const chosen = computed(() => [
  ...groups.value.map((id) => ({
    id,
    group: true,
    name: knownGroups.value.find((g) => g.id === id)?.name ?? 'a group',
  })),
  ...people.value.map((id) => {
    const p = known.value.find((p) => p.id === id)
    return { id, group: false, name: p ? called(p) : 'somebody who has left' }
  }),
])
function add(event: Event) {
  const select = event.target as HTMLSelectElement
  const [kind, id] = select.value.split(' ')
  if (kind === 'group') groups.value = [...groups.value, Number(id)]
  if (kind === 'person') people.value = [...people.value, Number(id)]
  select.value = ''
}
function drop(one: { id: number; group: boolean }) {
  if (one.group) groups.value = groups.value.filter((id) => id !== one.id)
  else people.value = people.value.filter((id) => id !== one.id)
}
</script>

<template>
  <div>
    <ul class="mb-1.5 flex flex-wrap gap-1.5" data-who>
      <li
        v-for="c in chosen"
        :key="`${c.group} ${c.id}`"
        class="inline-flex items-baseline gap-1 border border-rule px-2 py-0.5 text-[13px]"
        :class="c.group && 'bg-pine-wash'"
      >
        {{ c.name }}
        <button type="button" class="quiet" :aria-label="`Without ${c.name}`" @click="drop(c)">×</button>
      </li>
    </ul>
    <select
      v-if="me?.saves"
      class="field !w-56 py-0.5 text-[13px]"
      :aria-label="label"
      data-add-who
      @change="add"
    >
      <option value="">add people or groups …</option>
      <optgroup v-if="knownGroups.some((g) => !groups.includes(g.id))" label="Groups">
        <option
          v-for="g in knownGroups.filter((g) => !groups.includes(g.id))"
          :key="g.id"
          :value="`group ${g.id}`"
        >
          {{ g.name }}
        </option>
      </optgroup>
      <optgroup label="People">
        <option
          v-for="p in known.filter((p) => !people.includes(p.id))"
          :key="p.id"
          :value="`person ${p.id}`"
        >
          {{ called(p) }}
        </option>
      </optgroup>
    </select>
  </div>
</template>
