import type { Condition, Document } from '../../api/client'
import { conditionAt, removeColumn, removeGroup, setCondition } from '../document'
import { dropDerived, makings } from '../derivedFields'

/** A part of a view that does not run, said as well as it can be without the server. */
export interface Part {
  /** What stands before it in the sentence. */
  lead: string
  words: string
  /** Its place in the document: faults of it have paths that begin so. */
  path: string
  /** The view without it. */
  without: Document
}

/** What a field is called; its path, where it is not there any more. */
type Names = (path: string) => string

const list = (words: readonly string[]) =>
  words.length > 3 ? `${words.slice(0, 3).join(', ')} or ${words.length - 3} more` : words.join(', ')

function wordsOf(c: Condition, names: Names): string {
  if (c.linked) return `its ${c.linked.records}`
  if (c.within) return 'what another view keeps'
  const operand = c.values ? list(c.values) : [c.value, c.to].filter(Boolean).join(' to ')
  const period = c.period ? [c.period.which, c.period.n, c.period.unit].filter(Boolean).join(' ') : ''
  const op = (c.op ?? '').replaceAll('_', ' ')
  return [names(c.field ?? ''), op, operand || period || (c.other ? names(c.other) : '')]
    .filter(Boolean)
    .join(' ')
}

/** The conditions of a filter that test something, with their paths. */
function leaves(doc: Document, path: string): string[] {
  const c = conditionAt(doc, path)
  if (!c) return []
  for (const kind of ['all', 'any', 'none'] as const)
    if (c[kind]) return c[kind].flatMap((_, i) => leaves(doc, `${path}.${kind}[${i}]`))
  return [path]
}

/** The parts of a view in the order of its sentence. */
export function partsOf(doc: Document, names: Names): Part[] {
  const out: Part[] = []
  const add = (lead: string, words: string, path: string, without: Document) => {
    const again = out.at(-1)?.path.replace(/\[\d+\]$/, '') === path.replace(/\[\d+\]$/, '')
    out.push({ lead: again ? ',' : lead, words, path, without })
  }
  leaves(doc, 'filter').forEach((path, i) =>
    out.push({
      lead: i ? 'and' : 'where',
      words: wordsOf(conditionAt(doc, path) ?? {}, names),
      path,
      without: setCondition(doc, path, null),
    }),
  )
  for (const axis of ['groups', 'across'] as const)
    doc[axis]?.forEach((g, i) =>
      add(
        axis === 'groups' ? 'grouped by' : 'across',
        names(g.field),
        `${axis}[${i}]`,
        removeGroup(doc, axis, i),
      ),
    )
  doc.columns.forEach((c, i) =>
    add('showing', c.heading || names(c.field), `columns[${i}]`, removeColumn(doc, i)),
  )
  doc.sort?.forEach((s, i) =>
    add('sorted by', names(s.field), `sort[${i}]`, { ...doc, sort: doc.sort?.filter((_, j) => j !== i) }),
  )
  if (doc.compare) add('compared with', 'another period', 'compare', { ...doc, compare: undefined })
  if (doc.chart) add('with', 'a chart', 'chart', { ...doc, chart: undefined })
  for (const made of makings)
    doc[made]?.forEach((m, i) => add('making', m.label || m.key, `${made}[${i}]`, dropDerived(doc, m.key)))
  return out
}

/** Whether a fault lies in a part. */
export const lies = (fault: string, part: Part) =>
  fault === part.path || fault.startsWith(`${part.path}.`) || fault.startsWith(`${part.path}[`)
