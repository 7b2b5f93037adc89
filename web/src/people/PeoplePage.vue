<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { wordsOf } from '../api/problem'
import AddPerson from './AddPerson.vue'
import AuditTrail from './AuditTrail.vue'
import GroupPanel from './GroupPanel.vue'
import PersonPanel from './PersonPanel.vue'
import SensitiveFields from './SensitiveFields.vue'
import { usePeople } from './usePeople'

/** For administrators: who can sign in, what the members of each group see, and what was done. */
const managing = usePeople()
const { people, groups, required, require } = managing
const route = useRoute()
const router = useRouter()
const tabs = [
  { key: 'people', label: 'People' },
  { key: 'groups', label: 'Groups and what they see' },
  { key: 'sensitive', label: 'Sensitive and new fields' },
  { key: 'trail', label: 'Audit trail' },
] as const
const tab = computed(() => tabs.find((t) => t.key === route.query.show)?.key ?? 'people')
const words = ref('')
const listed = computed(() =>
  (people.data.value?.people ?? []).filter((p) =>
    `${p.name} ${p.email} ${p.role} ${p.groups.map((g) => g.name).join(' ')}`
      .toLowerCase()
      .includes(words.value.trim().toLowerCase()),
  ),
)
const chosen = ref(0)
/** Who is looked at stays so while others are looked for. */
const person = computed(() => people.data.value?.people.find((p) => p.id === chosen.value) ?? listed.value[0])
watch(person, (now) => (chosen.value ||= now?.id ?? 0))
const chosenGroup = ref(0)
const adding = ref(false)
/** Counts how often the group's panel was made anew. */
const anew = ref(0)
const group = computed(() =>
  adding.value
    ? null
    : (groups.data.value?.groups.find((g) => g.id === chosenGroup.value) ??
      groups.data.value?.groups[0] ??
      null),
)
const undecided = computed(() => groups.data.value?.new.length ?? 0)
const trouble = computed(() => people.error.value ?? groups.error.value ?? require.error.value)
function chooseGroup(id: number) {
  adding.value = false
  chosenGroup.value = id
}
</script>

<template>
  <main class="overflow-auto px-10 py-6">
    <h1 class="sr-only">People and what they see</h1>
    <nav class="mb-5 flex gap-6 border-b border-rule" aria-label="People">
      <button
        v-for="t in tabs"
        :key="t.key"
        class="-mb-px border-b-3 pb-2"
        :class="
          tab === t.key ? 'heading border-mulberry text-xl' : 'quiet border-transparent text-xl font-serif'
        "
        :aria-current="tab === t.key"
        :data-tab="t.key"
        @click="router.replace({ query: { show: t.key } })"
      >
        {{ t.label
        }}<span
          v-if="t.key === 'sensitive' && undecided"
          class="ml-1.5 align-super text-xs text-honey"
          title="New fields wait for a decision"
          >{{ undecided }} new</span
        >
      </button>
    </nav>
    <p v-if="trouble" role="alert">{{ wordsOf(trouble) }}</p>
    <div
      v-else-if="tab === 'people' && people.data.value && groups.data.value"
      class="grid grid-cols-[360px_1fr] gap-12"
    >
      <div>
        <input
          v-model="words"
          class="field mb-2"
          type="search"
          placeholder="Find by name, address, role or group"
          aria-label="Find a person"
        />
        <ul aria-label="Everybody">
          <li v-for="p in listed" :key="p.id">
            <button
              class="flex w-full items-baseline gap-3 border-b border-rule py-1.5 text-left"
              :class="p.id === person?.id && 'text-mulberry'"
              :aria-current="p.id === person?.id"
              :data-person="p.email"
              @click="chosen = p.id"
            >
              <span class="min-w-0 flex-1"
                ><b class="block truncate" :class="p.id === person?.id ? 'font-semibold' : 'font-medium'">{{
                  p.name
                }}</b
                ><span class="quiet block truncate text-xs">{{
                  p.groups.map((g) => g.name).join(', ')
                }}</span></span
              >
              <span class="quiet text-xs">{{ p.leftAt ? 'kept out' : p.role }}</span>
            </button>
          </li>
        </ul>
        <label class="mt-4 flex items-baseline gap-2 text-[13px]"
          ><input
            type="checkbox"
            class="accent-mulberry"
            name="second-required"
            :checked="required.data.value?.required"
            :disabled="require.isPending.value"
            @change="require.mutate(!required.data.value?.required)"
          />
          Everybody who signs in with a password needs a second factor</label
        >
        <AddPerson class="mt-5" :managing="managing" @added="(id) => (chosen = id)" />
      </div>
      <PersonPanel v-if="person" :key="person.id" :person="person" :managing="managing" />
    </div>
    <div v-else-if="tab === 'groups' && groups.data.value" class="grid grid-cols-[260px_1fr] gap-12">
      <div>
        <ul aria-label="Groups">
          <li v-for="g in groups.data.value.groups" :key="g.id">
            <button
              class="flex w-full items-baseline justify-between gap-3 border-b border-rule py-2 text-left"
              :class="g.id === group?.id && 'font-semibold text-mulberry'"
              :aria-current="g.id === group?.id"
              :data-group="g.name"
              @click="chooseGroup(g.id)"
            >
              {{ g.name }}<span class="quiet text-xs font-normal">{{ g.members }}</span>
            </button>
          </li>
        </ul>
        <button class="link mt-3" data-add-group @click="adding = true">Add a group …</button>
      </div>
      <GroupPanel
        :key="group ? `${group.id} ${anew}` : 'new'"
        :group="group"
        :managing="managing"
        @renew="anew++"
        @added="chooseGroup"
      />
    </div>
    <SensitiveFields
      v-else-if="tab === 'sensitive' && groups.data.value"
      :sets="groups.data.value.sets"
      :fresh="groups.data.value.new"
      :lost="groups.data.value.lost"
      :managing="managing"
    />
    <AuditTrail v-else-if="tab === 'trail'" />
  </main>
</template>
