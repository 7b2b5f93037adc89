import type { Command } from '../../shell/commands'

/** What keys do where the ledger or an editor has the focus; they act on them themselves. */
export const ledgerKeys: readonly Command[] = [
  { id: 'move', title: 'Move in the ledger; Page, Home and End go further', key: 'arrows' },
  { id: 'block', title: 'Choose a block of cells', key: 'Shift arrows' },
  { id: 'copy', title: 'Copy the chosen cells, for a spreadsheet', key: 'Ctrl C' },
  {
    id: 'fill in',
    title: 'Fill the chosen cell in, where that is possible; typing begins it, too',
    key: 'F2',
  },
  { id: 'tick', title: 'Tick a record, or all of a block', key: 'Space' },
  {
    id: 'open',
    title: 'Open or close a group, open a record; in an editor, keep what it shows',
    key: 'Enter',
  },
  { id: 'revert', title: 'In an editor, take back what it shows', key: 'Esc' },
]
