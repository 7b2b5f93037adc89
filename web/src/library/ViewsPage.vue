<script setup lang="ts">
import { defineAsyncComponent, ref } from 'vue'
import { wordsOf } from '../api/problem'
import { useMe } from '../session/useMe'
import { formatDateTime, formatCount } from '../words'
import Bin from './Bin.vue'
import BringIn from './BringIn.vue'
import { groundOf, openingOf } from './marks'
import { useLibrary, type Column } from './useLibrary'

/** All saved views, or all boards, in one list. */
const props = withDefaults(defineProps<{ kind?: 'view' | 'board' }>(), { kind: 'view' })
const boards = props.kind === 'board'
const {
  views,
  all,
  binned,
  words,
  order,
  orderBy,
  found,
  chosen,
  toggle,
  own,
  acted,
  act,
  download,
  duplicate,
  rename,
  label,
  toBin,
  back,
  forever,
} = useLibrary(props.kind)
const TakeViews = defineAsyncComponent(() => import('../takeaway/TakeViews.vue'))
const taking = ref(false)
const { me } = useMe()
const labelling = ref<string | null>(null)
const renaming = ref<string | null>(null)
const heads: { by: Column; label: string; width: string; right?: boolean }[] = [
  { by: 'name', label: 'Name and what it says', width: '' },
  ...(boards ? [] : [{ by: 'records' as const, label: 'Rows are', width: 'w-28' }]),
  { by: 'label', label: 'Label', width: 'w-28' },
  { by: 'owner', label: 'Owner, seen by', width: 'w-32' },
  { by: 'opened', label: 'Opened, 30 days', width: 'w-36', right: true },
  { by: 'openedAt', label: 'Last opened', width: 'w-40', right: true },
  { by: 'savedAt', label: 'Saved', width: 'w-40', right: true },
]
const sorted = (by: Column) =>
  order.value.by !== by ? 'none' : order.value.desc ? 'descending' : 'ascending'
function setName() {
  void rename((renaming.value ?? '').trim())
  renaming.value = null
}
function setLabel() {
  void label((labelling.value ?? '').trim())
  labelling.value = null
}
</script>

<template>
  <main class="overflow-auto px-10 py-6 max-md:px-4">
    <div class="mb-4 flex flex-wrap items-baseline gap-x-6 gap-y-3">
      <h1 class="heading text-2xl">{{ boards ? 'Boards' : 'Views' }}</h1>
      <input
        v-model="words"
        class="field max-w-md"
        type="search"
        :placeholder="
          boards
            ? 'Find by name, words, owner or label'
            : 'Find by name, words, record set, owner, label or field'
        "
        :aria-label="`Find a ${kind}`"
      />
      <span class="quiet">{{ found.length }} of {{ all.length }}</span>
      <RouterLink v-if="boards" class="button ml-auto" to="/b/new" data-new-board>New board</RouterLink>
      <BringIn v-else-if="me?.saves" />
    </div>
    <p v-if="views.error.value" role="alert">{{ wordsOf(views.error.value) }}</p>
    <p v-if="act.error.value" class="mb-2 text-mulberry" role="alert">{{ wordsOf(act.error.value) }}</p>
    <p
      v-if="acted.length"
      class="mb-2 flex items-baseline gap-5 bg-mulberry-wash px-3 py-1.5 text-[13px]"
      role="status"
      data-acts
    >
      <b class="font-medium">{{ formatCount(acted.length) }} chosen</b>
      <button v-if="me?.saves" class="link" @click="duplicate">duplicate</button>
      <template v-if="!boards">
        <button class="link" data-take-views @click="taking = true">take away …</button>
        <button
          class="link"
          data-download
          title="What they ask, to be brought in elsewhere"
          @click="download"
        >
          as view files
        </button>
      </template>
      <template v-if="own.length">
        <template v-if="acted.length === 1">
          <button v-if="renaming === null" class="link" @click="renaming = own[0]!.name">rename …</button>
          <form v-else class="flex items-baseline gap-2" @submit.prevent="setName">
            <input
              v-model="renaming"
              class="field !w-72 py-0"
              maxlength="120"
              required
              aria-label="Name"
              autofocus
            /><button class="link" type="submit">set</button>
          </form>
        </template>
        <button v-if="labelling === null" class="link" @click="labelling = ''">label …</button>
        <form v-else class="flex items-baseline gap-2" @submit.prevent="setLabel">
          <input
            v-model="labelling"
            class="field !w-40 py-0"
            maxlength="40"
            aria-label="Label"
            placeholder="none"
            autofocus
          /><button class="link" type="submit">set</button>
        </form>
        <button class="link" data-bin-chosen @click="toBin">to the bin</button>
      </template>
      <span v-if="own.length < acted.length" class="quiet"
        >{{ formatCount(acted.length - own.length) }} {{ acted.length - own.length === 1 ? 'is' : 'are' }} not
        yours: only duplicated</span
      >
    </p>
    <table v-if="found.length" class="w-full border-collapse text-left">
      <thead>
        <tr class="border-b border-rule text-mute">
          <th class="w-8 max-md:hidden"><span class="sr-only">Choose</span></th>
          <th
            v-for="h in heads"
            :key="h.by"
            class="py-2 font-medium whitespace-nowrap"
            :class="[h.width, h.right && 'text-right', h.by !== 'name' && 'max-md:hidden']"
            :aria-sort="sorted(h.by)"
          >
            <button class="font-medium" @click="orderBy(h.by)">
              {{ h.label }} {{ order.by === h.by ? (order.desc ? '↓' : '↑') : '' }}
            </button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="v in found"
          :key="v.key"
          class="border-b border-rule align-baseline"
          :class="chosen.has(v.key) && 'bg-mulberry-wash'"
          :data-view="v.key"
        >
          <td class="py-2.5 max-md:hidden">
            <input
              type="checkbox"
              class="size-4 accent-mulberry"
              :checked="chosen.has(v.key)"
              :aria-label="`Choose ${v.name}`"
              @change="toggle(v.key)"
            />
          </td>
          <td class="max-w-0 py-2.5 pr-6 max-md:pr-0">
            <RouterLink
              :to="openingOf(v)"
              class="heading flex items-baseline gap-2 truncate text-base hover:underline"
              ><span
                v-if="v.mark"
                class="inline-block h-3 w-1 shrink-0 self-center"
                :class="groundOf(v.mark)"
                :title="v.mark"
              ></span
              >{{ v.name }}</RouterLink
            >
            <span v-if="v.template || v.asks || v.least" class="quiet block text-xs"
              >{{
                [v.template && 'template', v.asks && `asks ${v.asks}`, v.least && 'its totals, no records']
                  .filter(Boolean)
                  .join(' · ')
              }}<RouterLink
                v-if="v.template && v.editable"
                class="link ml-3"
                :to="`/${boards ? 'b' : 'v'}/${v.key}`"
                >change the template</RouterLink
              ></span
            >
            <span v-if="v.about" class="block truncate">{{ v.about }}</span>
            <span
              class="block truncate max-md:line-clamp-2 max-md:whitespace-normal"
              :class="v.broken ? 'text-mulberry' : 'quiet'"
              :title="v.brief"
              >{{ v.brief }}</span
            >
          </td>
          <td v-if="!boards" class="max-md:hidden">
            {{ v.records
            }}<span v-if="v.fields.length" class="quiet block text-xs" :title="v.fields.join(', ')"
              >{{ formatCount(v.fields.length) }} {{ v.fields.length === 1 ? 'field' : 'fields' }}</span
            >
          </td>
          <td class="truncate max-md:hidden">{{ v.label }}</td>
          <td class="max-md:hidden">
            {{ v.owned ? 'you' : v.owner
            }}<span class="quiet block max-w-32 truncate text-xs" :title="v.audience">{{ v.audience }}</span>
          </td>
          <td class="text-right max-md:hidden" :class="!v.opened && 'text-honey'">
            {{ v.opened ? formatCount(v.opened) : 'not once' }}
          </td>
          <td class="text-right whitespace-nowrap max-md:hidden">
            {{ v.openedAt ? formatDateTime(v.openedAt) : '' }}
          </td>
          <td class="text-right whitespace-nowrap max-md:hidden">{{ formatDateTime(v.savedAt) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="views.data.value" class="quiet py-6">
      {{
        words
          ? `No ${kind} matches these words.`
          : boards
            ? 'No board is saved yet. A board puts parts of several views on one sheet.'
            : 'No view is saved yet. Start one from your desk.'
      }}
    </p>
    <TakeViews v-if="taking" :views="acted" @close="taking = false" />
    <Bin v-if="binned.length" :views="binned" @back="back" @forever="forever" />
  </main>
</template>
