import type { Condition, Document, Field } from '../../api/client'
import { operandOf } from '../../api/operators'
import { formatCount } from '../../words'

/** What a reader answered: the operands of a condition. None at all is no answer. */
export type Answer = Pick<Condition, 'value' | 'to' | 'values' | 'period'>
export type Answers = Readonly<Record<string, Answer>>

/** A condition that is left open, and its place in the document. */
export interface Question {
  path: string
  condition: Condition
}

/** A question as a strip of them shows it. */
export interface Asked {
  name: string
  /** With its answer. */
  condition: Condition
  /** The answer in words, without the field. */
  said: string
  /** What was answered in this run; what stands there else is proposed. */
  own: Answer | undefined
}

/** What is needed to answer a question. */
export interface AskedForm {
  field: Field | undefined
  fields: readonly Field[]
  context: Document
  /** The days that a relative period stands for. */
  dates?: string
}

/** A question with the words of its answer; phrase is what a sentence says of it, where there is one. */
export function asked(condition: Condition, answers: Answers, phrase?: string): Asked {
  const name = condition.ask?.name ?? ''
  let said = givenWords(condition)
  if (!isAnswered(condition)) said = condition.ask?.required ? 'waits for an answer' : 'anything'
  else if (condition.period && phrase) said = phrase.replace(/^.*?\b(in|is in)\b /, '')
  return { name, condition, said, own: answers[name] }
}

/** A condition with an answer in place of what is proposed. */
export const withAnswer = (c: Condition, given: Answer | undefined): Condition =>
  given ? { ...c, value: undefined, to: undefined, values: undefined, period: undefined, ...given } : c

/** The questions of a document, in its order. */
export function questionsOf(doc: Document): Question[] {
  const out: Question[] = []
  const visit = (c: Condition, path: string) => {
    if (c.ask) out.push({ path, condition: c })
    for (const kind of ['all', 'any', 'none'] as const)
      c[kind]?.forEach((part, i) => visit(part, `${path}.${kind}[${i}]`))
  }
  if (doc.filter) visit(doc.filter, 'filter')
  return out
}

/** The document as it is run: with the answers in place of what is proposed. */
export function answered(doc: Document, answers: Answers): Document {
  const put = (c: Condition): Condition => {
    const given = c.ask && answers[c.ask.name]
    if (given) return withAnswer(c, given)
    if (!c.all && !c.any && !c.none) return c
    return { ...c, all: c.all?.map(put), any: c.any?.map(put), none: c.none?.map(put) }
  }
  return doc.filter && questionsOf(doc).length ? { ...doc, filter: put(doc.filter) } : doc
}

/** Whether a condition has the operands that its operator needs; as the server sees it. */
export function isAnswered(c: Condition): boolean {
  switch (operandOf[c.op ?? 'is']) {
    case 'none':
      return true
    case 'period':
      return !!c.period
    case 'list':
    case 'weekdays':
    case 'hours':
      return !!c.values?.length
    case 'two':
      return !!c.value && !!c.to
  }
  return !!c.value || !!c.other
}

/** An answer in words. */
export function givenWords(a: Answer): string {
  if (a.values)
    return a.values.length > 3
      ? `${a.values.slice(0, 2).join(', ')} and ${formatCount(a.values.length - 2)} more`
      : a.values.map((v) => v || 'blank').join(', ')
  if (a.period) return periodWords(a.period)
  return a.to ? `${a.value} to ${a.to}` : (a.value ?? '') || 'anything'
}

/** A relative period in words; the server says it with its dates, once there is an answer. */
export function periodWords({ which, unit, n }: NonNullable<Condition['period']>): string {
  const word = unit.replace('_', ' ')
  const counted = n && n > 1 ? `${n} ${word}s` : word
  const said = {
    past: `the last ${counted}`,
    coming: `the next ${counted}`,
    this: `this ${word}`,
    last: `the ${word} before this`,
    next: `the ${word} after this`,
    to_date: `this ${word} up to today`,
    older: `longer ago than ${counted}`,
    beyond: `further ahead than ${counted}`,
  }
  return said[which]
}

/** A name for a question, made of its field, that no other question of the view has. */
function questionName(doc: Document, field: string): string {
  const used = new Set(questionsOf(doc).map((q) => q.condition.ask?.name))
  const stem = (
    field
      .split('.')
      .slice(-2)
      .join('_')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^[^a-z]+|_+$/g, '') || 'answer'
  ).slice(0, 36)
  let name = stem
  for (let n = 2; used.has(name); n++) name = `${stem}_${n}`
  return name
}

/** The words of a question, as a start for its author. */
function questionLabel(field: Field): string {
  if (field.type === 'date' || field.type === 'datetime') return `${field.label}: when?`
  return field.numeric ? `${field.label}: how much?` : `Which ${field.label.toLowerCase()}?`
}

/** A question about a field, as its author finds it. */
export function newQuestion(doc: Document, field: Field): NonNullable<Condition['ask']> {
  return { name: questionName(doc, field.path), label: questionLabel(field) }
}
