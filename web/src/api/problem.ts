/** One thing wrong with what was sent. */
export interface Fault {
  /** Place in the view document, as "filter.all[1].value"; empty if none. */
  path: string
  message: string
  /** Which fault it is, for programs; docs/errors.md lists them. */
  code?: string
}

/** A refusal in words for the reader, after RFC 9457. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    detail: string,
    readonly faults: readonly Fault[] = [],
  ) {
    super(detail)
  }
}

interface Detail {
  location?: string
  message?: string
  code?: string
}

export function problemOf(status: number, error: unknown): Problem {
  const model = (typeof error === 'object' && error !== null ? error : {}) as {
    detail?: string
    errors?: Detail[]
  }
  const faults = (model.errors ?? []).map((e) => ({
    path: (e.location ?? '').replace(/^body\.((view|document|board)\.)?/, ''),
    message: e.message ?? '',
    code: e.code,
  }))
  // What is wrong with the form of a request is said by its first fault.
  const detail =
    model.detail === 'validation failed' && faults[0]?.message ? capital(faults[0].message) : model.detail
  return new Problem(status, detail ?? `The server refused this (${status}).`, faults)
}

const capital = (words: string) =>
  words.charAt(0).toUpperCase() + words.slice(1) + (/[.?]$/.test(words) ? '' : '.')

/** The words to show for anything that was thrown. */
export function wordsOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
