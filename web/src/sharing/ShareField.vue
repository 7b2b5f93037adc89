<script setup lang="ts">
import { keyOf, usualLeast, withWhom, type Share } from './shares'
import { useSharesToAdd } from './useSharesToAdd'

/** Who sees a view beside its owner, and who may save over it. */
defineProps<{
  /** It can be shared for its totals, without records. */
  totals?: boolean
}>()
const shares = defineModel<readonly Share[]>({ required: true })
const { open, add } = useSharesToAdd(shares)
const change = (share: Share, to: Partial<Share>) =>
  (shares.value = shares.value.map((s) => (s === share ? { ...s, ...to } : s)))
const valueOf = (s: Share) => (s.totals ? 'totals' : s.edit ? 'edit' : 'see')
const allow = (s: Share, what: string) =>
  change(s, { edit: what === 'edit', totals: what === 'totals' ? usualLeast : undefined })
</script>

<template>
  <fieldset class="mb-5">
    <legend class="mb-1 font-medium">Who sees it</legend>
    <p v-if="!shares.length" class="quiet py-1">Only you.</p>
    <ul v-else data-shares>
      <li v-for="s in shares" :key="keyOf(s)" class="flex items-center gap-3 border-b border-rule py-1">
        <span class="min-w-0 flex-1 truncate">{{ withWhom(s) }}</span>
        <label v-if="s.totals" class="quiet flex items-baseline gap-1.5 text-[13px]"
          >of at least<input
            class="field !w-16 py-0.5"
            type="number"
            min="2"
            max="1000"
            :value="s.totals"
            data-least
            @change="
              change(s, {
                totals: Math.max(2, Number(($event.target as HTMLInputElement).value) || usualLeast),
              })
            "
        /></label>
        <span v-if="s.role === 'reader' && !totals" class="quiet text-[13px]">may see it</span>
        <select
          v-else
          class="field !w-52 py-0.5 text-[13px]"
          :aria-label="`What ${withWhom(s)} may do`"
          :value="valueOf(s)"
          @change="allow(s, ($event.target as HTMLSelectElement).value)"
        >
          <option value="see">may see it</option>
          <option v-if="totals" value="totals">may see its totals, no records</option>
          <option v-if="s.role !== 'reader'" value="edit">may see and change it</option>
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
    <p class="quiet mt-1 text-xs">
      Everybody sees it over the records that they may see.
      <template v-if="shares.some((s) => s.totals)"
        >Whoever sees its totals alone may still see the records elsewhere, unless administrators keep them
        from their group.</template
      >
    </p>
  </fieldset>
</template>
