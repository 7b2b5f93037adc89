<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useMe } from '../../session/useMe'
import { runCommand, useCommands, useKeyHints } from '../../shell/commands'
import WorkHead from '../../work/head/WorkHead.vue'
import { useBench } from '../bench'
import { useStandard } from './useStandard'

const TakeAway = defineAsyncComponent(() => import('../../takeaway/TakeAway.vue'))
const KeepDialog = defineAsyncComponent(() => import('../../kept/KeepDialog.vue'))
const DeliveryDialog = defineAsyncComponent(() => import('../../deliveries/DeliveryDialog.vue'))
const RoundDialog = defineAsyncComponent(() => import('../../rounds/RoundDialog.vue'))
/** The head of a bench: the view as something that is saved, and what becomes of its result. */
const bench = useBench()
const { saved, title, history, changed, run } = bench
const { me } = useMe()
const router = useRouter()
const standard = useStandard(bench)
const hint = useKeyHints()
const dialog = ref<'take away' | 'print' | 'round' | 'deliver' | 'keep' | null>(null)

useCommands(() => [
  { id: 'take-away', title: 'Take away …', key: 'e', run: () => (dialog.value = 'take away') },
  { id: 'print', title: 'Print …', key: 'Ctrl P', run: () => (dialog.value = 'print') },
  {
    id: 'keep',
    title: 'Keep this result …',
    key: 'k',
    when: () => !!saved.value && !!me.value?.saves,
    run: () => (dialog.value = 'keep'),
  },
  {
    id: 'kept',
    title: 'Kept results',
    when: () => !!saved.value,
    run: () => saved.value && void router.push(`/v/${saved.value.key}/kept`),
  },
  {
    id: 'round',
    title: 'Have it looked at …',
    key: 'r',
    when: () => !!saved.value,
    run: () => (dialog.value = 'round'),
  },
  {
    id: 'deliver',
    title: 'Deliver …',
    key: 'd',
    when: () => !!saved.value && !!me.value?.saves,
    run: () => (dialog.value = 'deliver'),
  },
])
const acts = [
  ['save-as', 'name', 'copy-link', 'print'],
  ['deliver', 'round', 'keep', 'kept'],
]
const sections = computed(() => (me.value?.administrator ? [standard.value] : []))
</script>

<template>
  <WorkHead
    :work="bench.work"
    what="view"
    :brief="run.result.value?.sentence ?? ''"
    :acts="acts"
    :sections="sections"
  >
    <template #acts>
      <button class="button" :title="hint('take-away')" data-take-away-open @click="runCommand('take-away')">
        Take away
      </button>
    </template>
    <TakeAway
      v-if="dialog === 'take away' || dialog === 'print'"
      :of="{
        memory: saved?.key ?? bench.set.key,
        key: changed ? undefined : saved?.key,
        name: title,
        document: bench.live.value,
        depth: bench.opening.now.value.depth,
        what: dialog === 'print' ? 'paper' : undefined,
      }"
      @close="dialog = null"
      @taken="bench.taken.value++"
      @said="bench.say"
      @paper="(paper) => history.step({ ...history.kept.value, paper })"
    />
    <RoundDialog
      v-if="dialog === 'round' && saved"
      :view="saved.key"
      :name="saved.name"
      :now="bench.asking.answers.value"
      @close="dialog = null"
      @said="bench.say"
    />
    <KeepDialog
      v-if="dialog === 'keep' && saved"
      :view="saved.key"
      :document="bench.live.value"
      :sentence="run.result.value?.sentence ?? ''"
      @close="dialog = null"
      @said="bench.say"
    />
    <DeliveryDialog
      v-if="dialog === 'deliver' && saved"
      kind="view"
      :view="saved.key"
      :name="saved.name"
      :now="bench.asking.answers.value"
      @close="dialog = null"
      @said="bench.say"
    />
  </WorkHead>
</template>
