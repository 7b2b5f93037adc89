<script setup lang="ts">
import { keyOf, withWhom, type Share } from './shares'
import { useSharesToAdd } from './useSharesToAdd'

/** Who sees a view beside its owner, and who may save over it. */
const shares = defineModel<readonly Share[]>({ required: true })
const { open, add } = useSharesToAdd(shares)
const allow = (share: Share, edit: boolean) =>
  (shares.value = shares.value.map((s) => (s === share ? { ...s, edit } : s)))
</script>

<template>
  <fieldset class="mb-5">
    <legend class="mb-1 font-medium">Who sees it</legend>
    <p v-if="!shares.length" class="quiet py-1">Only you.</p>
    <ul v-else data-shares>
      <li v-for="s in shares" :key="keyOf(s)" class="flex items-center gap-3 border-b border-rule py-1">
        <span class="min-w-0 flex-1 truncate">{{ withWhom(s) }}</span>
        <span v-if="s.role === 'reader'" class="quiet text-[13px]">may see it</span>
        <select
          v-else
          class="field !w-52 py-0.5 text-[13px]"
          :aria-label="`What ${withWhom(s)} may do`"
          :value="s.edit ? 'edit' : 'see'"
          @change="allow(s, ($event.target as HTMLSelectElement).value === 'edit')"
        >
          <option value="see">may see it</option>
          <option value="edit">may see and change it</option>
        </select>
        <button
          type="button"
          class="quiet px-1"
          :aria-label="`Stop sharing with ${withWhom(s)}`"
          title="Stop sharing with them"
          @click="shares = shares.filter((x) => x !== s)"
        >
          ×
        </button>
      </li>
    </ul>
    <select
      v-if="open.length"
      class="field mt-2 !w-52 py-1 text-[13px]"
      aria-label="Share with"
      data-share-with
      @change="add"
    >
      <option value="">share with …</option>
      <option v-for="c in open" :key="keyOf(c)" :value="keyOf(c)">{{ withWhom(c) }}</option>
    </select>
    <p class="quiet mt-1 text-xs">Everybody sees it over the records that they may see.</p>
  </fieldset>
</template>
