<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import {} from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { formatCount } from '../words'
import { roles, type Managing, type Person } from './usePeople'

/** One person: her role and groups, what rules ask of her, and what she sees because of all that. */
const props = defineProps<{ person: Person; managing: Managing }>()
const { people, groups, asked, change, reset, handAll, dropSecond } = props.managing
const name = ref(props.person.name)
const role = ref(props.person.role)
const named = computed(() => (groups.data.value?.groups ?? []).filter((g) => !g.rest))
const savedGroups = () =>
  props.person.groups.map((g) => g.id).filter((id) => named.value.some((g) => g.id === id))
const inGroups = ref(new Set(savedGroups()))
const traits = ref<Record<string, string>>({ ...props.person.traits })
const traitNames = computed(() => [...new Set([...asked.value, ...Object.keys(traits.value)])].sort())
const sees = useQuery(queries.sees(props.person.id))
const limited = computed(
  () =>
    sees.data.value?.sets.filter((s) => s.hidden || s.totals || s.seen < s.all || s.withheld.length) ?? [],
)
const to = ref(0)
const others = computed(() =>
  (people.data.value?.people ?? []).filter(
    (p) => p.id !== props.person.id && !p.leftAt && p.role !== 'reader',
  ),
)

function toggle(id: number) {
  const next = new Set(inGroups.value)
  if (!next.delete(id)) next.add(id)
  inGroups.value = next
}
/** Keeps somebody out, or lets her in again: of what was only tried nothing is saved. */
function keepOut(left: boolean) {
  const { id, name, role, traits } = props.person
  change.mutate({ id, name, role, groups: savedGroups(), traits, left })
}
function write(left: boolean) {
  change.mutate({
    id: props.person.id,
    name: name.value,
    role: role.value,
    groups: [...inGroups.value],
    traits: traits.value,
    left,
  })
}
const trouble = computed(
  () => change.error.value ?? reset.error.value ?? dropSecond.error.value ?? handAll.error.value,
)
const fresh = computed(() => (reset.data.value?.person.id === props.person.id ? reset.data.value.fresh : ''))
</script>

<template>
  <section class="max-w-3xl" :aria-label="person.name">
    <form @submit.prevent="write(!!person.leftAt)">
      <p class="mb-4 flex items-baseline gap-4">
        <input
          v-model="name"
          class="heading field !w-80 !border-transparent !bg-transparent !px-0 text-xl hover:!border-rule"
          maxlength="120"
          aria-label="Name"
        /><span class="quiet">{{ person.email }}</span
        ><span v-if="!person.password" class="quiet text-xs">no password</span>
      </p>
      <div class="grid grid-cols-2 gap-10">
        <fieldset>
          <legend class="mb-1 w-full border-b border-rule pb-1 font-medium text-mute">Role</legend>
          <label v-for="r in roles" :key="r.role" class="flex items-baseline gap-2 py-1"
            ><input v-model="role" type="radio" name="role" :value="r.role" class="accent-mulberry" /><span
              >{{ r.label }}<span class="quiet block text-xs">{{ r.may }}</span></span
            ></label
          >
        </fieldset>
        <fieldset>
          <legend class="mb-1 w-full border-b border-rule pb-1 font-medium text-mute">Groups</legend>
          <label v-for="g in named" :key="g.id" class="flex items-baseline gap-2 py-1"
            ><input
              type="checkbox"
              :checked="inGroups.has(g.id)"
              class="accent-mulberry"
              :data-in="g.name"
              @change="toggle(g.id)"
            /><span
              >{{ g.name
              }}<span v-if="g.description" class="quiet block text-xs">{{ g.description }}</span></span
            ></label
          >
          <p v-if="!named.length" class="quiet text-xs">There are none yet.</p>
        </fieldset>
      </div>
      <fieldset v-if="traitNames.length" class="mt-5">
        <legend class="mb-1 w-full border-b border-rule pb-1 font-medium text-mute">
          What rules ask of each person
        </legend>
        <label v-for="t in traitNames" :key="t" class="flex items-baseline gap-3 py-1"
          ><span class="w-28">{{ t }}</span
          ><input
            v-model="traits[t]"
            class="field !w-80 py-0.5"
            :name="`trait-${t}`"
            placeholder="none; several between commas"
        /></label>
      </fieldset>
      <p v-if="trouble" class="mt-3 text-mulberry" role="alert">{{ wordsOf(trouble) }}</p>
      <p class="mt-4 flex items-center gap-4">
        <button class="button button-act" type="submit" data-save-person :disabled="change.isPending.value">
          Save</button
        ><span
          v-if="change.isSuccess.value && change.variables.value?.id === person.id"
          class="text-pine"
          role="status"
          >saved; it holds from now on</span
        >
      </p>
    </form>
    <section class="mt-6" aria-label="What this person sees">
      <h2 class="mb-1 border-b border-rule pb-1 font-medium text-mute">
        What {{ person.name.split(' ')[0] }} sees, as saved
      </h2>
      <p v-if="sees.error.value" role="alert">{{ wordsOf(sees.error.value) }}</p>
      <p v-else-if="sees.data.value && !limited.length" class="py-1" data-sees>Everything.</p>
      <table v-else-if="sees.data.value" class="w-full" data-sees>
        <tbody>
          <tr v-for="s in limited" :key="s.label" class="border-b border-rule align-baseline">
            <td class="w-40 py-1 font-medium">{{ s.label }}</td>
            <td class="w-56">
              {{
                s.totals
                  ? `none, but totals of ${s.totals} or more`
                  : s.hidden
                    ? 'none of them'
                    : s.seen < 0
                      ? 'a part of them'
                      : s.seen < s.all
                        ? `${formatCount(s.seen)} of ${formatCount(s.all)}`
                        : `all ${formatCount(s.all)}`
              }}
            </td>
            <td class="quiet">{{ s.withheld.length && !s.hidden ? `not ${s.withheld.join(', ')}` : '' }}</td>
          </tr>
          <tr v-if="limited.length < sees.data.value.sets.length">
            <td colspan="3" class="quiet py-1">
              All of the other {{ sees.data.value.sets.length - limited.length }} record sets.
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section
      class="mt-6 flex flex-wrap items-baseline gap-x-6 gap-y-2 border-t border-rule pt-3 text-[13px]"
      aria-label="Other acts"
    >
      <button class="link" @click="reset.mutate(person.id)">Make a new password</button>
      <button
        v-if="person.second"
        class="link"
        title="As when the app is lost"
        @click="dropSecond.mutate(person.id)"
      >
        Take the second factor away
      </button>
      <span class="flex items-baseline gap-2"
        >Hand all views to
        <select v-model.number="to" class="field !w-40 py-0.5" aria-label="Hand all views to">
          <option :value="0">nobody</option>
          <option v-for="p in others" :key="p.id" :value="p.id">{{ p.name }}</option>
        </select>
        <button v-if="to" class="link" @click="handAll.mutate({ id: person.id, to })">hand over</button></span
      >
      <button class="link" data-left @click="keepOut(!person.leftAt)">
        {{ person.leftAt ? 'Let in again' : 'Keep out: cannot sign in' }}
      </button>
      <span v-if="fresh" class="w-full bg-pine-wash p-2" role="status"
        >The new password is <code class="font-mono select-all">{{ fresh }}</code>. Note it now; it is not
        shown again.</span
      >
      <span
        v-if="handAll.data.value && handAll.variables.value?.id === person.id"
        class="w-full text-pine"
        role="status"
        >{{ formatCount(handAll.data.value.views) }} views were handed over.</span
      >
    </section>
  </section>
</template>
