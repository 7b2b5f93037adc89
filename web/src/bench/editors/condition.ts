import type { Condition, Field, Op } from '../../api/client'
import { operandOf } from '../../api/operators'

/** The condition an editor opens with: the likeliest operator, nothing chosen. */
export function startOf(field: Field): Condition {
  const op = likeliest(field)
  if (operandOf[op] === 'period')
    return { field: field.path, op, period: { which: 'past', unit: 'day', n: 30 } }
  if (field.type === 'yesno') return { field: field.path, op, value: 'yes' }
  return { field: field.path, op, value: '', values: [] }
}

/** The operator that fits a field best; the catalog lists those there are. */
export const likeliest = (field: Field): Op => (field.ops[0]?.op ?? 'is') as Op

/** The part of an editor's form that its operator uses; null while an operand is missing. */
export function complete(form: Condition, field: Field): Condition | null {
  const { op = 'is', value, to, values, period, other } = form
  const head = { field: field.path, op }
  switch (operandOf[op]) {
    case 'none':
      return head
    case 'period':
      return period ? { ...head, period: { ...period } } : null
    case 'list':
    case 'weekdays':
    case 'hours':
      return values?.length ? { ...head, values: [...values] } : null
    case 'two':
      return value && to ? { ...head, value, to } : null
  }
  if (other) return { ...head, other }
  return value ? { ...head, value } : null
}

/** The values in a pasted text: lines, or cells of a row. */
export function pastedValues(text: string): string[] {
  const parts = /[\r\n\t]/.test(text) ? text.split(/[\r\n\t]+/) : text.split(/[,;]/)
  return [...new Set(parts.map((p) => p.trim()).filter(Boolean))]
}

/** An operand as a number that can be compared; NaN for what is none. */
export function measure(type: string, text: string | undefined): number {
  if (!text) return NaN
  if (type === 'date' || type === 'datetime') return Date.parse(text)
  if (type !== 'duration') return Number(text)
  const [h = 0, m = 0, s = 0] = text.replace('-', '').split(':').map(Number)
  return (text.startsWith('-') ? -1 : 1) * (h * 3600 + m * 60 + s)
}

/** Whether a stretch of values lies wholly in what a condition keeps, as far as its operands say. */
export function keeps(
  form: Condition,
  type: string,
  from: string | undefined,
  to: string | undefined,
): boolean {
  const [a, b, value, end] = [
    measure(type, from),
    measure(type, to),
    measure(type, form.value),
    measure(type, form.to),
  ]
  switch (form.op) {
    case 'over':
      return a > value
    case 'at_least':
      return a >= value
    case 'under':
      return b < value
    case 'at_most':
      return b <= value
    case 'between':
      return a >= value && b <= end
    case 'not_between':
      return b < value || a > end
  }
  return false
}
