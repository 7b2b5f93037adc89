import type { Schemas } from '../api/client'

export type Options = Schemas['Options']
export type Rows = NonNullable<Options['rows']>

/** What a result is taken away as. */
export type What = 'paper' | 'spreadsheet' | 'file' | 'clipboard'

/** Formats of data files, with what each is for. */
export const fileFormats = [
  { key: 'csv', name: 'Comma-separated values', about: 'for any program that reads tables' },
  { key: 'json', name: 'JSON', about: 'one object, with what the view says' },
  { key: 'jsonl', name: 'JSON Lines', about: 'one object on each line' },
  { key: 'html', name: 'Web page', about: 'one file that any browser shows' },
  { key: 'parquet', name: 'Parquet', about: 'typed columns, small, for analysis' },
] as const
export type FileFormat = (typeof fileFormats)[number]['key']

/** What somebody has chosen, kept for each kind of file apart. */
export interface Choices {
  what: What
  spreadsheet: { rows: Rows; depth?: number }
  file: {
    format: FileFormat
    rows: Rows
    separator: NonNullable<Options['separator']>
    encoding: NonNullable<Options['encoding']>
    keys: boolean
    guard: boolean
  }
  clipboard: { rows: Rows }
  /** Keys of the columns that stay behind. */
  left: string[]
}

/** What is usual: with the records only where they are on screen, so that totals leave alone. */
export function usual(depth: number, levels: number): Choices {
  const rows: Rows = depth >= levels ? 'records' : 'totals'
  return {
    what: 'spreadsheet',
    spreadsheet: { rows: 'ledger', depth },
    file: { format: 'csv', rows, separator: 'comma', encoding: 'utf-8-marked', keys: false, guard: true },
    clipboard: { rows },
    left: [],
  }
}

/** The ways to lay out lines that are rows; a crosstab has no records. */
export const flatLines = (records: boolean): { rows: Rows; name: string }[] => [
  ...(records ? [{ rows: 'records' as const, name: 'one for each record' }] : []),
  { rows: 'totals', name: 'groups and totals alone' },
]

/** How many lines a clipboard takes without harm to what they are pasted into. */
export const clipboardLines = 50_000

/** The choices as the server takes them. columns are all that could be taken. */
export function optionsOf(c: Choices, columns: readonly { key: string }[] = []): Options {
  const left = new Set(c.left)
  const taken = columns.map((x) => x.key).filter((key) => !left.has(key))
  const some = taken.length < columns.length ? { columns: taken } : {}
  switch (c.what) {
    case 'paper':
      return { format: 'pdf', depth: c.spreadsheet.depth }
    case 'spreadsheet':
      return c.spreadsheet.rows === 'ledger'
        ? { format: 'xlsx', rows: 'ledger', depth: c.spreadsheet.depth }
        : { format: 'xlsx', rows: c.spreadsheet.rows, ...some }
    case 'clipboard':
      return { format: 'csv', separator: 'tab', rows: c.clipboard.rows, guard: true, ...some }
    case 'file': {
      const { format, rows, keys, ...csv } = c.file
      if (format === 'html') return { format, rows, ...(rows === 'ledger' ? {} : some) }
      // A program that reads another format reads texts as texts.
      return {
        format,
        rows: rows === 'ledger' ? 'records' : rows,
        keys,
        ...(format === 'csv' ? csv : {}),
        ...some,
      }
    }
  }
}

/** The words of the button that does it. */
export function actOf(c: Choices): string {
  switch (c.what) {
    case 'paper':
      return 'Take the pages'
    case 'spreadsheet':
      return 'Take the spreadsheet'
    case 'clipboard':
      return 'Copy'
    case 'file':
      return 'Take the file'
  }
}

/** A size in words: "55 KB", "2.1 MB". */
export function sizeOf(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`
  const [unit, name] = bytes < 1e6 ? [1e3, 'KB'] : bytes < 1e9 ? [1e6, 'MB'] : [1e9, 'GB']
  const n = bytes / unit
  return `${n < 10 ? n.toFixed(1) : Math.round(n)} ${name}`
}
