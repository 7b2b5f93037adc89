<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch, watchEffect } from 'vue'
import { useRoute } from 'vue-router'
import RoundStrip from '../rounds/RoundStrip.vue'
import { useCommands } from '../shell/commands'
import { useThings } from '../shell/things'
import AskingStrip from './AskingStrip.vue'
import ViewQuestions from './ask/ViewQuestions.vue'
import { provideBench } from './bench'
import { benchCommands } from './benchCommands'
import Brief from './brief/Brief.vue'
import BrokenBrief from './brief/BrokenBrief.vue'
import ChartPane from './chart/ChartPane.vue'
import { addColumn, setColumn, setCondition } from './document'
import FactFields from '../facts/FactFields.vue'
import FilledStrip from '../facts/FilledStrip.vue'
import FillPopover from '../facts/FillPopover.vue'
import Editors from './editors/Editors.vue'
import { findable } from './foundFields'
import BenchHead from './head/BenchHead.vue'
import { ledgerKeys } from './ledger/keys'
import Ledger from './ledger/Ledger.vue'
import Lens from './lens/Lens.vue'
import LevelStrip from './LevelStrip.vue'
import NothingLeft from './NothingLeft.vue'
import PrintSheet from './print/PrintSheet.vue'
import Tally from './Tally.vue'
import TicksBar from './TicksBar.vue'
import EarlierWork from '../work/unsaved/EarlierWork.vue'
import { stopped } from './useRun'
import type { ViewSource } from './useViewSource'

/** The screen where a view is made and read. */
const props = defineProps<{ source: ViewSource }>()
const bench = provideBench(props.source)
const { set, saved, title, history, opening, asking, live, waits, run, fields, byPath, selection } = bench
const document_ = history.shown
const route = useRoute()
/** Unsaved work of another time, until it is gone on with or dropped. */
const earlier = ref(props.source.earlier)

const sentence = useTemplateRef('sentence')
watchEffect(() => (bench.sentence.value = sentence.value))

/** The sheet for paper is there while one prints only. */
const printing = ref(false)
useEventListener(window, 'beforeprint', () => {
  printing.value = true
  bench.taken.value++
})
useEventListener(window, 'afterprint', () => (printing.value = false))

useCommands(() => [...benchCommands(bench), ...ledgerKeys])
useThings(() =>
  fields.value.map((f) => ({
    kind: 'field',
    name: f.label,
    about: [f.way.length ? `in ${f.way.join(' › ')}` : '', f.meaning].filter(Boolean).join(' — '),
    by: findable(f),
    choose: () => history.step(addColumn(history.kept.value, f.path)),
  })),
)

// A mark of a board leads to the group that it stands for.
const pointed = route.query.group?.toString()
if (pointed)
  watch(
    run.result,
    () => {
      const line = run.rowsRead().find((l) => l.group === pointed)
      if (line && !line.open) opening.toggle(pointed, line.level)
    },
    { once: true, flush: 'post' },
  )

/** What is wrong with the view as it stands, at places of it; an editor that is open says its own. */
const broken = computed(() => {
  const problem = bench.editor.editing.value ? null : bench.trouble.value
  return problem?.faults.some((f) => f.path) ? problem : null
})
const charted = computed(() => (document_.value.chart && run.result.value?.chart) || null)
/** Whether the answer that is on the screen shows records: the next one may take a while. */
const recordsShown = ref(true)
watch(run.result, () => (recordsShown.value = opening.records.value), { immediate: true })
const lensOpen = computed(
  () => selection.lensShown.value && !!(selection.chosen.value ?? selection.field.value),
)
function takenBack() {
  bench.filled.value = null
  void run.again()
}
/** Looks at what a mark of the chart stands for. */
function lookAtMark(group: string, column: number, text: string) {
  const line = run.rowsRead().find((l) => l.group === group)
  const none = Array<string>(run.result.value?.columns.length ?? 0).fill('')
  const cells = line?.cells ?? Object.assign(none, column >= 0 ? { [column]: text } : {})
  selection.chooseLine({ line: line ?? { level: 1, group, label: '', cells }, head: column })
}
</script>

<template>
  <main class="flex min-h-0 flex-col">
    <section class="border-b border-rule bg-paper px-5 pt-3 pb-3 max-md:px-3">
      <BenchHead />
      <RoundStrip
        v-if="saved"
        class="mb-1"
        :view="saved.key"
        :round="route.query.round?.toString() ?? ''"
        :taken="bench.taken.value"
      />
      <EarlierWork v-if="earlier" :earlier="earlier" @gone="earlier = null" />
      <div ref="sentence">
        <BrokenBrief
          v-if="broken"
          :label="set.label"
          :document="document_"
          :fields="byPath"
          :problem="broken"
          @mend="history.step"
        />
        <Brief
          v-else-if="run.result.value"
          :phrases="run.result.value.brief"
          :stale="run.state.value.kind !== 'ready'"
        />
      </div>
    </section>
    <div
      v-if="bench.trouble.value"
      class="border-b border-rule bg-mulberry-wash px-5 py-2 max-md:px-3"
      role="alert"
    >
      <ul v-if="bench.trouble.value.faults.length > 1" class="list-disc pl-5">
        <li v-for="f in bench.trouble.value.faults" :key="f.path">{{ f.message }}</li>
      </ul>
      <template v-else>{{ bench.trouble.value.message }}</template>
      <button
        v-if="
          [0, stopped].includes(bench.trouble.value.status) ||
          (!run.result.value && !bench.trouble.value.faults.length)
        "
        class="link ml-2"
        @click="run.again()"
      >
        Try again
      </button>
      <button v-if="history.canUndo.value" class="link ml-2" @click="history.undo()">
        Undo the last step
      </button>
    </div>
    <AskingStrip v-if="run.state.value.kind === 'running' && !waits" @stop="run.stop()" />
    <ViewQuestions
      v-if="asking.questions.value.length"
      :asking="asking"
      :document="live"
      :fields="fields"
      :by-path="byPath"
      :phrases="run.result.value?.brief ?? []"
    />
    <p v-if="waits" class="flex-1 p-10 font-serif text-lg max-md:p-5" role="status" data-waits>
      Answer “{{ asking.waiting.value[0]?.condition.ask?.label }}” to see the {{ set.label.toLowerCase() }}.
    </p>
    <div v-else-if="run.result.value" class="flex min-h-0 flex-1">
      <section class="flex min-h-0 min-w-0 flex-1 flex-col">
        <LevelStrip />
        <NothingLeft
          v-if="run.result.value.tally.kept === 0 && run.result.value.tally.all > 0"
          :phrases="run.result.value.brief"
          :many="run.result.value.tally.many"
          @leave-out="history.step(setCondition(history.kept.value, $event, null))"
        />
        <FilledStrip
          v-if="bench.filled.value"
          :key="bench.filled.value.batch"
          :filled="bench.filled.value"
          @gone="takenBack"
        />
        <TicksBar
          v-if="selection.ticked.value.size"
          :count="selection.ticked.value.size"
          :one="set.one"
          :many="run.result.value.tally.many"
          @keep="selection.useTicked('one_of')"
          @leave-out="selection.useTicked('none_of')"
          @clear="selection.ticked.value = new Set()"
        >
          <FactFields
            :set="set.key"
            :one="set.one"
            :many="run.result.value.tally.many"
            :fields="fields"
            :records="[...selection.ticked.value]"
            @filled="bench.tookIn"
          />
        </TicksBar>
        <div
          class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)]"
          :class="
            charted &&
            (document_.chart?.beside
              ? '!grid-cols-2 max-md:!grid-cols-1 max-md:grid-rows-2'
              : 'grid-rows-[minmax(230px,2fr)_minmax(0,2.4fr)]')
          "
        >
          <ChartPane
            v-if="charted"
            :document="document_"
            :drawing="charted"
            :fields="byPath"
            @change="history.step"
            @mark="lookAtMark"
          />
          <Ledger
            class="min-h-0"
            :run="run"
            :result="run.result.value"
            :document="live"
            :records-shown="recordsShown"
            :selection="selection"
            :fillable="(head) => !!byPath.get(run.result.value?.columns[head]?.field ?? '')?.fillIn"
            @open="bench.openRecord"
            @fill="bench.fillIn"
            @toggle="opening.toggle"
            @say="bench.say"
            @resize="(column, width) => history.step(setColumn(history.kept.value, column, { width }))"
          />
        </div>
      </section>
      <Lens v-if="lensOpen" :result="run.result.value" />
    </div>
    <p v-else-if="!bench.trouble.value" class="quiet flex-1 p-10">Computing …</p>
    <Tally
      v-if="run.result.value && !waits"
      :result="run.result.value"
      :running="run.state.value.kind === 'running'"
      :said="bench.said.value"
      :freshness="bench.freshness"
      @follow="bench.follow"
      @anew="run.again(true)"
    />
    <Editors />
    <FillPopover
      v-if="bench.filling.value"
      :key="`${bench.filling.value.record} ${bench.filling.value.field.path}`"
      :set="set.key"
      :one="set.one"
      :many="run.result.value?.tally.many ?? ''"
      :field="bench.filling.value.field"
      :record="bench.filling.value.record"
      :anchor="bench.filling.value.anchor"
      :typed="bench.filling.value.typed"
      @done="bench.tookIn"
    />
    <Teleport to="body"
      ><PrintSheet
        v-if="printing && run.result.value"
        :title="title"
        :about="saved?.description ?? ''"
        :result="run.result.value"
        :lines="run.rowsRead(true)"
        :questions="asking.questions.value"
    /></Teleport>
  </main>
</template>
