import type { Component } from 'vue'
import type { Field } from '../../api/client'
import type { Bench } from '../bench'
import type { Editing, EditingOf } from '../editing/editing'
import BesideEditor from './BesideEditor.vue'
import BucketEditor from './BucketEditor.vue'
import ColumnsEditor from './ColumnsEditor.vue'
import CompareEditor from './CompareEditor.vue'
import ConditionEditor from './ConditionEditor.vue'
import FindEditor from './FindEditor.vue'
import FormulaEditor from './FormulaEditor.vue'
import GroupEditor from './GroupEditor.vue'
import LinkedEditor from './LinkedEditor.vue'
import LinkedValueEditor from './LinkedValueEditor.vue'
import SortEditor from './SortEditor.vue'
import WithinEditor from './WithinEditor.vue'

/** What is passed to a component, what it emits as onX among it. */
type PropsOf<C> = C extends new () => { $props: infer P } ? P : never

/** How one kind of editor looks, and what it works on. */
export interface PopoverSpec {
  component: Component
  label: string
  tone: 'mulberry' | 'pine' | 'slate' | 'ink' | 'honey'
  /** In CSS pixels. */
  width: number
  tall?: number
  props: (open: Editing, bench: Bench) => Record<string, unknown>
}
interface Given<K extends Editing['kind'], C> extends Omit<PopoverSpec, 'props'> {
  component: C & Component
  props: (open: EditingOf<K>, bench: Bench) => PropsOf<C>
}
const popover = <K extends Editing['kind'], C>(_: K, spec: Given<K, C>) => spec as unknown as PopoverSpec

/** What editors of a condition share. */
const ofCondition = (place: string, { editor, run }: Bench) => ({
  phrase: run.result.value?.brief.find((p) => p.kind === 'filter' && p.path === place),
  fault: editor.fault.value,
  onChange: editor.change,
  onRemove: editor.removeCondition,
  onBeside: editor.addAnother,
})
/** Whether a key is that of a field the view does not make itself: what it makes may be what is edited. */
const takenAt = (bench: Bench) => (key: string) => {
  const f = bench.byPath.value.get(key)
  return !!f && (!f.kind || !!f.shared)
}
const sortable = (fields: readonly Field[]) =>
  fields.filter((f) => f.type !== 'picture' && f.kind !== 'per_total')

/** Every editor that hangs from the sentence. A new one is a line here and its component. */
export const popovers: Record<Editing['kind'], PopoverSpec> = {
  find: popover('find', {
    component: FindEditor,
    label: 'Find a field',
    tone: 'mulberry',
    width: 560,
    props: ({ purpose }) => ({ purpose }),
  }),
  condition: popover('condition', {
    component: ConditionEditor,
    label: 'Condition',
    tone: 'mulberry',
    width: 540,
    props: ({ field, condition, context, place }, bench) => ({
      field,
      condition,
      context,
      fields: bench.fields.value,
      ...ofCondition(place, bench),
    }),
  }),
  within: popover('within', {
    component: WithinEditor,
    label: 'What another view keeps',
    tone: 'mulberry',
    width: 480,
    props: ({ within, place }, bench) => ({ within, ...ofCondition(place, bench) }),
  }),
  linked: popover('linked', {
    component: LinkedEditor,
    label: 'Condition on linked records',
    tone: 'mulberry',
    width: 600,
    tall: 520,
    props: ({ source, linked, place }, bench) => ({
      source,
      linked,
      document: bench.history.kept.value,
      taken: takenAt(bench),
      onShow: bench.editor.showLinked,
      ...ofCondition(place, bench),
    }),
  }),
  group: popover('group', {
    component: GroupEditor,
    label: 'Group',
    tone: 'pine',
    width: 560,
    props: ({ axis, index, keeping }, { history, byPath, editor, run, set }) => ({
      document: history.shown.value,
      axis,
      index,
      keeping,
      many: run.result.value?.tally.many ?? set.label.toLowerCase(),
      fields: byPath.value,
      units: editor.units.value,
      onChange: editor.tryOut,
      onMoved: editor.groupMoved,
      onTurned: editor.turn,
      onRemoved: editor.dropGroup,
    }),
  }),
  columns: popover('columns', {
    component: ColumnsEditor,
    label: 'Columns',
    tone: 'ink',
    width: 680,
    props: (_, { history, fields, byPath, set, editor, offers }) => ({
      document: history.shown.value,
      offers: offers.value,
      fields: fields.value,
      byPath: byPath.value,
      standard: set.standard,
      records: set.key,
      onChange: editor.tryOut,
    }),
  }),
  sort: popover('sort', {
    component: SortEditor,
    label: 'Sort',
    tone: 'slate',
    width: 480,
    props: (_, { history, fields, byPath, editor, offers }) => ({
      document: history.shown.value,
      offers: offers.value,
      fields: sortable(fields.value),
      byPath: byPath.value,
      onChange: editor.tryOut,
    }),
  }),
  compare: popover('compare', {
    component: CompareEditor,
    label: 'Compare',
    tone: 'slate',
    width: 480,
    props: (_, { history, run, editor }) => ({
      document: history.shown.value,
      fault: run.state.value.kind === 'failed' ? run.state.value.problem.message : '',
      onChange: editor.tryOut,
    }),
  }),
  calculate: popover('calculate', {
    component: FormulaEditor,
    label: 'Calculated field',
    tone: 'honey',
    width: 700,
    tall: 620,
    props: ({ before, made }, bench) => ({
      document: before,
      made,
      // A formula may use all fields but the one that it is.
      fields: bench.fields.value.filter((f) => f.path !== made?.key),
      offers: bench.offers.value,
      taken: takenAt(bench),
      onChange: bench.editor.tryCalculated,
      onRemove: bench.editor.removeDerived,
      onShare: bench.sharing.share,
    }),
  }),
  linkedValue: popover('linkedValue', {
    component: LinkedValueEditor,
    label: 'Value of linked records',
    tone: 'honey',
    width: 640,
    tall: 560,
    props: ({ before, made, source }, bench) => ({
      document: before,
      made,
      source,
      taken: takenAt(bench),
      onChange: bench.editor.tryLinkedValue,
      onFilter: bench.editor.filterByMade,
      onRemove: bench.editor.removeDerived,
      onShare: bench.sharing.share,
    }),
  }),
  beside: popover('beside', {
    component: BesideEditor,
    label: 'Beside other records',
    tone: 'honey',
    width: 640,
    tall: 600,
    props: ({ before, made, start }, bench) => ({
      document: before,
      made,
      start,
      fields: bench.fields.value,
      byPath: bench.byPath.value,
      taken: takenAt(bench),
      onChange: bench.editor.tryBeside,
      onFilter: bench.editor.filterByMade,
      onRemove: bench.editor.removeDerived,
      onShare: bench.sharing.share,
    }),
  }),
  bucket: popover('bucket', {
    component: BucketEditor,
    label: 'Bucket',
    tone: 'honey',
    width: 700,
    tall: 600,
    props: ({ before, made, of }, bench) => ({
      key: of?.path,
      document: before,
      made,
      of,
      fields: of ? [...bench.fields.value, of] : bench.fields.value,
      taken: takenAt(bench),
      onChange: bench.editor.tryBucket,
      onRemove: bench.editor.removeDerived,
      onShare: bench.sharing.share,
      onAge: bench.editor.bucketAge,
      offers: bench.offers.value,
      onOffer: bench.editor.bucketOffer,
    }),
  }),
}
