import { api, unwrap, type Document, type Field, type Schemas } from '../api/client'
import { dated } from './document'

/** How long a proposal is waited for, in milliseconds. */
const patience = 3_000

export type UnitGroups = Schemas['UnitsOutputBody']

/** How many groups each unit of time makes of a field, and the one that reads best; null where none is known. */
export async function unitsOf(view: Document, field: Field): Promise<UnitGroups | null> {
  if (!dated(field)) return null
  return unwrap(
    api.POST('/api/units', { body: { view, field: field.path }, signal: AbortSignal.timeout(patience) }),
  ).catch(() => null)
}
