<script setup lang="ts">
import { computed } from 'vue'
import type { Field } from '../../api/client'
import Popover from '../Popover.vue'
import type { useEditing } from '../useEditing'
import type { History } from '../useHistory'
import type { Run } from '../useRun'
import ColumnsEditor from './ColumnsEditor.vue'
import CompareEditor from './CompareEditor.vue'
import ConditionEditor from './ConditionEditor.vue'
import FieldFinder from './FieldFinder.vue'
import GroupEditor from './GroupEditor.vue'
import SortEditor from './SortEditor.vue'

/** The editor that is open, hanging from its phrase. */
const props = defineProps<{
  editor: ReturnType<typeof useEditing>; history: History; run: Run
  fields: readonly Field[]; byPath: ReadonlyMap<string, Field>; standard: readonly string[]
}>()
const open = computed(() => props.editor.editing.value)
const phrase = computed(() => {
  const now = open.value
  return now?.kind === 'condition' ? props.run.result.value?.brief.find((p) => p.kind === 'filter' && p.path === now.place) : undefined
})
const groupable = computed(() => props.fields.filter((f) => f.type !== 'picture'))
const looks = {
  find: { label: 'Find a field', tone: 'mulberry', width: 560 }, condition: { label: 'Condition', tone: 'mulberry', width: 540 },
  group: { label: 'Group', tone: 'pine', width: 480 }, columns: { label: 'Columns', tone: 'ink', width: 640 }, sort: { label: 'Sort', tone: 'slate', width: 480 },
  compare: { label: 'Compare', tone: 'slate', width: 480 },
} as const
</script>

<template>
  <Popover
    v-if="open" :key="`${open.kind} ${open.kind === 'condition' ? open.place : ''}`" :anchor="open.anchor" v-bind="looks[open.kind]"
    @keep="editor.keepAnswered" @revert="editor.revert"
  >
    <FieldFinder
      v-if="open.kind === 'find'" :fields="open.purpose === 'group' ? groupable : fields"
      :hint="open.purpose === 'group' ? 'Type to find the field to group by' : 'Type to find the field to filter by'" @choose="editor.chosen"
    />
    <ConditionEditor
      v-else-if="open.kind === 'condition'" :field="open.field" :condition="open.condition" :context="open.context" :fields="fields" :phrase="phrase"
      :fault="editor.fault.value" @change="editor.change" @remove="editor.removeCondition" @beside="editor.addAnother"
    />
    <GroupEditor
      v-else-if="open.kind === 'group'" :document="history.shown.value" :way="open.way" :index="open.index" :fields="byPath" @change="history.tryOut"
      @moved="editor.groupMoved" @turned="editor.turn" @removed="editor.dropGroup"
    />
    <ColumnsEditor v-else-if="open.kind === 'columns'" :document="history.shown.value" :fields="fields" :by-path="byPath" :standard="standard" @change="history.tryOut" />
    <CompareEditor v-else-if="open.kind === 'compare'" :document="history.shown.value" :fault="run.state.value.kind === 'failed' ? run.state.value.problem.message : ''" @change="history.tryOut" />
    <SortEditor v-else :document="history.shown.value" :fields="groupable" :by-path="byPath" @change="history.tryOut" />
  </Popover>
</template>
