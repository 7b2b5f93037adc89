<script setup lang="ts">
import { useTitle } from '@vueuse/core'
import { computed, defineAsyncComponent } from 'vue'
import { useMe } from '../../session/useMe'
import ActionMenu, { type MenuSection } from '../../shell/ActionMenu.vue'
import { commands, runCommand, useKeyHints } from '../../shell/commands'
import { useBench } from '../bench'
import ChangedMark from './ChangedMark.vue'
import ConflictDialog from './ConflictDialog.vue'
import { favoriteSection, isFavorite } from './favorites'
import SaveDialog from './SaveDialog.vue'
import StepsDialog from './StepsDialog.vue'
import { useHead } from './useHead'
import { useStandard } from './useStandard'
import VersionsDialog from './VersionsDialog.vue'

const TakeAway = defineAsyncComponent(() => import('../../takeaway/TakeAway.vue'))
const KeepDialog = defineAsyncComponent(() => import('../../kept/KeepDialog.vue'))
const DeliveryDialog = defineAsyncComponent(() => import('../../deliveries/DeliveryDialog.vue'))
const RoundDialog = defineAsyncComponent(() => import('../../rounds/RoundDialog.vue'))
/** Which view is open, whether it differs from what was saved, and the acts on it as a whole. */
const bench = useBench()
const { saved, title, history, changed, run } = bench
const { by, template } = bench.source
const { me } = useMe()
const head = useHead(bench)
const { open, conflict } = head
const standard = useStandard(bench)
const hint = useKeyHints()

const ofCommands = (...ids: string[]) =>
  ids
    .flatMap((id) => commands.value.find((c) => c.id === id) ?? [])
    .map((c) => ({ id: c.id, title: c.title, key: hint.value(c.id), run: () => c.run?.() }))
const sections = computed<MenuSection[]>(() => [
  { acts: ofCommands('save-as', 'name', 'copy-link', 'print') },
  { acts: ofCommands('deliver', 'round', 'keep', 'kept') },
  ...(saved.value ? [favoriteSection(saved.value, head.keepOn)] : []),
  { acts: ofCommands('look over', 'steps', 'versions', 'lens', 'keys') },
  ...(me.value?.administrator ? [standard.value] : []),
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
    <ChangedMark />
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
      <button class="button" :title="hint('take-away')" data-take-away-open @click="runCommand('take-away')">
        Take away
      </button>
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
      <ActionMenu class="button" aria-label="More" data-more :sections="sections">⋯</ActionMenu>
    </div>
    <SaveDialog
      v-if="open === 'name new' || open === 'name'"
      :saved="saved"
      :fresh="open === 'name new'"
      :brief="run.result.value?.sentence ?? ''"
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
    <TakeAway
      v-if="open === 'take away' || open === 'print'"
      :of="{
        memory: saved?.key ?? bench.set.key,
        key: changed ? undefined : saved?.key,
        name: title,
        document: bench.live.value,
        depth: bench.opening.now.value.depth,
        what: open === 'print' ? 'paper' : undefined,
      }"
      @close="open = null"
      @taken="bench.taken.value++"
      @said="bench.say"
      @paper="(paper) => history.step({ ...history.kept.value, paper })"
    />
    <RoundDialog
      v-if="open === 'round' && saved"
      :view="saved.key"
      :name="saved.name"
      :now="bench.asking.answers.value"
      @close="open = null"
      @said="bench.say"
    />
    <KeepDialog
      v-if="open === 'keep' && saved"
      :view="saved.key"
      :document="bench.live.value"
      :sentence="run.result.value?.sentence ?? ''"
      @close="open = null"
      @said="bench.say"
    />
    <DeliveryDialog
      v-if="open === 'deliver' && saved"
      :view="saved.key"
      :name="saved.name"
      :now="bench.asking.answers.value"
      @close="open = null"
      @said="bench.say"
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
  </div>
</template>
