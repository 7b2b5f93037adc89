<script setup lang="ts">
import { computed } from 'vue'
import type { Field, LinkBy } from '../../api/client'
import Popover from '../Popover.vue'
import { filters, type useEditing } from '../useEditing'
import type { History } from '../useHistory'
import type { Run } from '../useRun'
import { useSharing } from '../useSharing'
import BucketEditor from './BucketEditor.vue'
import ColumnsEditor from './ColumnsEditor.vue'
import CompareEditor from './CompareEditor.vue'
import ConditionEditor from './ConditionEditor.vue'
import FieldFinder from './FieldFinder.vue'
import FormulaEditor from './FormulaEditor.vue'
import GroupEditor from './GroupEditor.vue'
import LinkedEditor from './LinkedEditor.vue'
import OtherViews from './OtherViews.vue'
import SortEditor from './SortEditor.vue'
import WithinEditor from './WithinEditor.vue'

/** The editor that is open, hanging from its phrase. */
const props = defineProps<{
  editor: ReturnType<typeof useEditing>
  history: History
  run: Run
  fields: readonly Field[]
  byPath: ReadonlyMap<string, Field>
  standard: readonly string[]
  records: string
  label: string
  linkedBy: readonly LinkBy[]
}>()
const open = computed(() => props.editor.editing.value)
const phrase = computed(() => {
  const now = open.value
  return filters(now)
    ? props.run.result.value?.brief.find((p) => p.kind === 'filter' && p.path === now.place)
    : undefined
})
const groupable = computed(() => props.fields.filter((f) => f.type !== 'picture' && f.kind !== 'per_total'))
const filterable = computed(() => props.fields.filter((f) => f.kind !== 'per_total'))
// What the view makes itself may be what is being edited.
const taken = (key: string) => {
  const f = props.byPath.get(key)
  return !!f && (!f.kind || !!f.shared)
}
/** A formula may use all fields but the one that it is. */
const formulaFields = computed(() => {
  const now = open.value
  return props.fields.filter((f) => now?.kind !== 'calculate' || f.path !== now.made?.key)
})
const withAge = computed(() => {
  const now = open.value
  return now?.kind === 'bucket' && now.of
    ? new Map([...props.byPath, [now.of.path, now.of] as const])
    : props.byPath
})
const { share, trouble: shareTrouble } = useSharing(props.editor, props.history, () => props.records)
const looks = {
  find: { label: 'Find a field', tone: 'mulberry', width: 560 },
  condition: { label: 'Condition', tone: 'mulberry', width: 540 },
  within: { label: 'What another view keeps', tone: 'mulberry', width: 480 },
  linked: { label: 'Condition on linked records', tone: 'mulberry', width: 600, tall: 520 },
  group: { label: 'Group', tone: 'pine', width: 480 },
  columns: { label: 'Columns', tone: 'ink', width: 680 },
  sort: { label: 'Sort', tone: 'slate', width: 480 },
  compare: { label: 'Compare', tone: 'slate', width: 480 },
  calculate: { label: 'Calculated field', tone: 'honey', width: 700, tall: 620 },
  bucket: { label: 'Bucket', tone: 'honey', width: 700, tall: 600 },
} as const
</script>

<template>
  <Popover
    v-if="open"
    :key="`${editor.session.value} ${open.kind} ${filters(open) ? open.place : ''}`"
    :anchor="open.anchor"
    v-bind="looks[open.kind]"
    :busy="editor.settling.value"
    @keep="editor.keepAnswered"
    @revert="editor.revert"
  >
    <div v-if="open.kind === 'find'">
      <FieldFinder
        :fields="open.purpose === 'group' ? groupable : filterable"
        :set="records"
        :hint="
          open.purpose === 'group'
            ? 'Type to find the field to group by'
            : open.purpose === 'ask'
              ? 'Type to find the field to ask the reader about'
              : 'Type to find the field to filter by'
        "
        @choose="editor.chosen"
      />
      <template v-if="open.purpose === 'filter' && linkedBy.length">
        <h3 class="quiet mt-3 border-b border-rule pb-1 text-xs">Or ask about the records that link here</h3>
        <p class="flex flex-wrap gap-x-4 gap-y-1 pt-1.5" data-linked-by>
          <button
            v-for="l in linkedBy"
            :key="`${l.records} ${l.by}`"
            class="link"
            @click="editor.newLinked(l)"
          >
            {{ l.label }}<span v-if="l.by.includes('.')" class="quiet"> by {{ l.way }}</span>
          </button>
        </p>
      </template>
      <OtherViews v-if="open.purpose === 'filter'" :label="label" @choose="editor.newWithin" />
    </div>
    <WithinEditor
      v-else-if="open.kind === 'within'"
      :within="open.within"
      :phrase="phrase"
      :fault="editor.fault.value"
      @remove="editor.removeCondition"
      @beside="editor.addAnother"
    />
    <LinkedEditor
      v-else-if="open.kind === 'linked'"
      :source="open.source"
      :linked="open.linked"
      :phrase="phrase"
      :fault="editor.fault.value"
      @change="editor.change"
      @remove="editor.removeCondition"
      @beside="editor.addAnother"
    />
    <ConditionEditor
      v-else-if="open.kind === 'condition'"
      :field="open.field"
      :condition="open.condition"
      :context="open.context"
      :fields="fields"
      :phrase="phrase"
      :fault="editor.fault.value"
      @change="editor.change"
      @remove="editor.removeCondition"
      @beside="editor.addAnother"
    />
    <GroupEditor
      v-else-if="open.kind === 'group'"
      :document="history.shown.value"
      :axis="open.axis"
      :index="open.index"
      :fields="byPath"
      @change="editor.tryOut"
      @moved="editor.groupMoved"
      @turned="editor.turn"
      @removed="editor.dropGroup"
    />
    <ColumnsEditor
      v-else-if="open.kind === 'columns'"
      :document="history.shown.value"
      :fields="fields"
      :by-path="byPath"
      :standard="standard"
      :records="records"
      @change="editor.tryOut"
    />
    <CompareEditor
      v-else-if="open.kind === 'compare'"
      :document="history.shown.value"
      :fault="run.state.value.kind === 'failed' ? run.state.value.problem.message : ''"
      @change="editor.tryOut"
    />
    <FormulaEditor
      v-else-if="open.kind === 'calculate'"
      :document="open.before"
      :made="open.made"
      :fields="formulaFields"
      :taken="taken"
      @change="editor.tryCalculated"
      @remove="editor.removeDerived"
      @share="share"
    />
    <BucketEditor
      v-else-if="open.kind === 'bucket'"
      :key="open.of?.path"
      :document="open.before"
      :made="open.made"
      :of="open.of"
      :fields="fields"
      :by-path="withAge"
      :taken="taken"
      @change="editor.tryBucket"
      @remove="editor.removeDerived"
      @share="share"
      @age="editor.bucketAge"
    />
    <SortEditor
      v-else
      :document="history.shown.value"
      :fields="groupable"
      :by-path="byPath"
      @change="editor.tryOut"
    />
    <template v-if="shareTrouble" #foot
      ><span class="text-mulberry" role="alert">{{ shareTrouble }}</span></template
    >
  </Popover>
</template>
