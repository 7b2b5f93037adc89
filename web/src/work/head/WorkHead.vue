<script setup lang="ts" generic="D extends Content">
import { useTitle } from '@vueuse/core'
import { computed } from 'vue'
import type { Content } from '../../api/client'
import { useMe } from '../../session/useMe'
import ActionMenu, { type MenuSection } from '../../shell/ActionMenu.vue'
import { commandActs, runCommand, useKeyHints } from '../../shell/commands'
import type { Work } from '../useWork'
import ChangedMark from './ChangedMark.vue'
import ConflictDialog from './ConflictDialog.vue'
import { favoriteSection, isFavorite } from './favorites'
import SaveDialog from './SaveDialog.vue'
import StepsDialog from './StepsDialog.vue'
import { useHead } from './useHead'
import VersionsDialog from './VersionsDialog.vue'

/** Which view or board is open, whether it differs from what was saved, and the acts on it as a whole. */
const props = defineProps<{
  work: Work<D>
  /** What it is: "view" or "board". */
  what: string
  /** What it says of itself. */
  brief: string
  /** Commands that stand in the menu behind its own, in groups; and sections after those. */
  acts: readonly (readonly string[])[]
  sections?: readonly MenuSection[]
}>()
const { saved, title, history, changed } = props.work
const { by, template } = props.work.source
const { me } = useMe()
const head = useHead(props.work, props.what)
const { open, conflict } = head
const hint = useKeyHints()
const menu = computed<MenuSection[]>(() => [
  ...props.acts.map((ids) => ({ acts: commandActs(ids, hint.value) })),
  ...(saved.value ? [favoriteSection(saved.value, head.keepOn)] : []),
  { acts: commandActs(['look over', 'steps', 'versions', 'lens', 'keys'], hint.value) },
  ...(props.sections ?? []),
])
useTitle(
  computed(() => `${title.value} · Gavrik`),
  { restoreOnUnmount: () => 'Gavrik' },
)
</script>

<template>
  <div class="mb-1 flex items-center gap-x-4 gap-y-1 max-md:flex-wrap">
    <h1 class="truncate text-[15px] font-semibold" data-title :title="saved?.description">
      <span v-if="saved && isFavorite(saved)" class="text-mulberry" title="A favorite" data-favorite>★ </span
      >{{ title }}
    </h1>
    <span v-if="saved" class="quiet text-xs whitespace-nowrap"
      ><span
        class="inline-block max-w-48 truncate align-bottom"
        :title="`Who sees it: ${saved.audience}`"
        data-audience
        >{{ saved.audience }}</span
      >
      · by {{ saved.owned ? 'you' : saved.owner }} ·
      <button
        class="underline decoration-dotted underline-offset-2"
        title="Every version, and what each changed"
        data-open-versions
        @click="runCommand('versions')"
      >
        v{{ saved.version }}
      </button></span
    >
    <ChangedMark :work="work" />
    <span v-if="template" class="quiet truncate text-xs" data-from
      >from the template “{{ template.name }}”</span
    >
    <span v-if="by" class="quiet truncate text-xs">from a link by {{ by }}</span>
    <span v-if="head.trouble.value && !open" class="truncate text-mulberry" role="alert">{{
      head.trouble.value
    }}</span>
    <div class="ml-auto flex shrink-0 gap-2 max-md:hidden">
      <button class="button" :disabled="!history.canUndo.value" :title="hint('undo')" @click="history.undo">
        Undo
      </button>
      <button class="button" :disabled="!history.canRedo.value" :title="hint('redo')" @click="history.redo">
        Redo
      </button>
      <slot name="acts" />
      <button
        v-if="saved?.editable"
        class="button button-act"
        :disabled="!changed || head.writing.value"
        :title="hint('save')"
        @click="head.saveNow"
      >
        Save
      </button>
      <button
        v-else-if="me?.saves"
        class="button"
        :class="!saved && 'button-act'"
        @click="runCommand(saved ? 'save-as' : 'save')"
      >
        {{ saved ? 'Save as …' : 'Save …' }}
      </button>
      <ActionMenu class="button" aria-label="More" data-more :sections="menu">⋯</ActionMenu>
    </div>
    <SaveDialog
      v-if="open === 'name new' || open === 'name'"
      :saved="saved"
      :fresh="open === 'name new'"
      :brief="brief"
      :what="what"
      :busy="head.writing.value"
      :trouble="head.trouble.value"
      @save="head.write"
      @close="open = null"
      @remove="head.removeIt"
      @hand-over="head.hand"
    />
    <StepsDialog v-if="open === 'steps'" :history="history" @close="open = null" />
    <VersionsDialog
      v-if="open === 'versions' && saved"
      :view="saved"
      @close="open = null"
      @show="head.showVersion"
    />
    <ConflictDialog
      v-if="conflict && saved"
      :view="saved"
      :base="head.base.value"
      :mine="history.kept.value"
      @over="head.writeOver"
      @theirs="head.takeTheirs"
      @apart="head.saveApart"
      @close="conflict = null"
    />
    <slot />
  </div>
</template>
