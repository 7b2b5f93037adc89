/** A line of what was pasted: what the record is known by, and the value. */
export interface PastedLine {
  record: string
  value: string
}

/**
 * Two columns out of what was pasted: parted by a tab as spreadsheets do, else by a semicolon, else by a
 * comma. A heading that names the fact itself is left out.
 */
export function pastedLines(text: string, label: string): PastedLine[] {
  const lines = text.split(/\r\n|\r|\n/).filter((l) => l.trim())
  const mark = ['\t', ';', ','].find((m) => lines.some((l) => l.includes(m)))
  const cut = lines.map((l) => {
    const at = mark ? l.indexOf(mark) : -1
    if (at < 0) return { record: l.trim(), value: '' }
    return { record: unquoted(l.slice(0, at)), value: unquoted(l.slice(at + 1)) }
  })
  const heading = cut[0]?.value.toLowerCase() === label.toLowerCase()
  return heading ? cut.slice(1) : cut
}

/** A value without the quotation marks that spreadsheets put around it. */
function unquoted(text: string): string {
  const t = text.trim()
  return t.length > 1 && t.startsWith('"') && t.endsWith('"') ? t.slice(1, -1).replace(/""/g, '"') : t
}
