import type { Command } from '../shell/commands'
import type { Bench } from './bench'
import { plainColumns } from './document'
import type { AddWhat } from './editing/editing'

/** What can be done at a bench, by key, by name and from the words behind the sentence. */
export function benchCommands(bench: Bench): Command[] {
  const { history, opening, selection, set, reading } = bench
  const adds: { what: AddWhat; key: string; title: string }[] = [
    { what: 'columns', key: 'c  /', title: 'Find a field and add it as a column' },
    { what: 'filter', key: 'f', title: 'Filter' },
    { what: 'group', key: 'g', title: 'Group' },
    { what: 'calculate', key: '=', title: 'Calculate a field' },
    { what: 'bucket', key: 'b', title: 'Put values into buckets: of the chosen column, if there is one' },
    { what: 'compare', key: 'x', title: 'Compare with another period' },
    { what: 'ask', key: 'a', title: 'Ask the reader' },
  ]
  const chosen = () => selection.column.value >= 0
  const edits = () => !reading.value
  return [
    ...adds.map(({ what, ...command }) => ({
      id: what,
      ...command,
      when: edits,
      run: () => bench.add(what),
    })),
    {
      id: 'sort',
      title: 'Sort by the chosen column; again turns it round',
      key: 's',
      when: edits,
      run: () => (chosen() ? selection.sortBy() : bench.add('sort')),
    },
    {
      id: 'total',
      title: 'Total the chosen column',
      key: 't',
      when: edits,
      run: () => (chosen() ? selection.total() : bench.add('columns')),
    },
    {
      id: 'chart',
      title: history.shown.value.chart ? 'Take the chart away' : 'Chart the groups',
      key: 'h',
      run: selection.toggleChart,
    },
    {
      id: 'lens',
      title: selection.lensShown.value ? 'Put the lens away' : 'Look at what is chosen',
      key: 'l',
      run: () => (selection.lensShown.value = !selection.lensShown.value),
    },
    {
      id: 'close level',
      title: 'Close a level',
      key: '[',
      run: () => opening.showDownTo(opening.now.value.depth - 1),
    },
    {
      id: 'open level',
      title: 'Open a level more',
      key: ']',
      run: () => opening.showDownTo(opening.now.value.depth + 1),
    },
    { id: 'undo', title: 'Undo', key: 'Ctrl Z', run: history.undo },
    { id: 'redo', title: 'Redo', key: 'Ctrl Shift Z', run: history.redo },
    {
      id: 'clear filters',
      title: 'Clear all filters',
      when: () => !!history.shown.value.filter,
      run: () => history.step({ ...history.kept.value, filter: undefined }),
    },
    { id: 'look over', title: 'Look them over, field by field', run: bench.lookOver },
    {
      id: 'standard columns',
      title: 'Back to standard columns',
      run: () => history.step({ ...history.kept.value, columns: plainColumns(set.standard) }),
    },
  ]
}
