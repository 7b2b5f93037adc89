import type { DeliveryTerms } from '../api/client'

type Files = NonNullable<DeliveryTerms['content']['files']>
type Format = Files[number]['format']

/** What can be attached, by the names that people use. */
const formats: readonly { format: Format; name: string }[] = [
  { format: 'xlsx', name: 'Spreadsheet' },
  { format: 'pdf', name: 'Paper' },
  { format: 'csv', name: 'Comma-separated values' },
  { format: 'html', name: 'Web page' },
  { format: 'json', name: 'JSON' },
  { format: 'jsonl', name: 'JSON Lines' },
  { format: 'parquet', name: 'Parquet' },
]

/** What can be attached of a view, or of a board, which leaves as paper. */
export const formatsOf = (kind: 'view' | 'board') =>
  kind === 'board' ? formats.filter((f) => f.format === 'pdf') : formats

/** How many files one letter may have. */
export const mostFiles = 4

export const attached = (files: Files | undefined, format: Format) =>
  (files ?? []).some((f) => f.format === format)

/** The files with one more of a format, or one less. What was chosen of the others stays. */
export function toggled(files: Files | undefined, format: Format): Files {
  const had = files ?? []
  return attached(had, format) ? had.filter((f) => f.format !== format) : [...had, { format }]
}

/** Addresses as they are typed: between commas, semicolons or blanks, or on lines. */
export const addressesIn = (text: string) => text.split(/[\s,;]+/).filter(Boolean)
