// Written from the table of operators in the core by `make openapi`.
import type { Op, OpChoice } from './client'

/** What each operator compares with. */
export const operandOf: Readonly<Record<Op, OpChoice['operand']>> = {
  is: 'one',
  is_not: 'one',
  one_of: 'list',
  none_of: 'list',
  contains: 'one',
  not_contains: 'one',
  starts: 'one',
  ends: 'one',
  like: 'pattern',
  not_like: 'pattern',
  over: 'one',
  at_least: 'one',
  under: 'one',
  at_most: 'one',
  between: 'two',
  not_between: 'two',
  in: 'period',
  not_in: 'period',
  weekday: 'weekdays',
  not_weekday: 'weekdays',
  hour: 'hours',
  not_hour: 'hours',
  blank: 'none',
  filled: 'none',
  failed: 'none',
}
