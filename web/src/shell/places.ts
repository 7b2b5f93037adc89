import type { Me } from '../api/client'

/** The main places, in the order of the line at the top. */
export const placesOf = (me: Me) => [
  { to: '/', label: 'Desk' },
  { to: '/views', label: 'Views' },
  { to: '/boards', label: 'Boards' },
  { to: '/records', label: 'Records' },
  { to: '/definitions', label: 'Definitions' },
  ...(me.saves ? [{ to: '/deliveries', label: 'Deliveries' }] : []),
  ...(me.administrator ? [{ to: '/people', label: 'People' }] : []),
]
