import { expect, it } from 'vitest'
import type { Document } from '../../api/client'
import { lies, partsOf } from './parts'

const view = {
  gavrik: 1,
  records: 'claims',
  filter: {
    all: [
      { field: 'state', op: 'one_of', values: ['Open', 'Late', 'Lost', 'Found'] },
      { any: [{ field: 'claimed', op: 'over', value: '25' }] },
    ],
  },
  groups: [{ field: 'gone' }, { field: 'category' }],
  columns: [{ field: 'ref' }, { field: 'claimed', heading: 'Asked for' }],
} as Document

it('says a view that cannot run, part by part, and what is left without a part', () => {
  const parts = partsOf(view, (path) => (path === 'claimed' ? 'Claimed' : path))
  expect(parts.map((p) => `${p.lead} ${p.words}`)).toEqual([
    'where state one of Open, Late, Lost or 1 more',
    'and Claimed over 25',
    'grouped by gone',
    ', category',
    'showing ref',
    ', Asked for',
  ])
  const broken = parts.filter((p) => lies('groups[0].field', p))
  expect(broken.map((p) => p.words)).toEqual(['gone'])
  expect(broken[0]!.without.groups).toEqual([{ field: 'category' }])
  const nested = parts.find((p) => lies('filter.all[1].any[0].value', p))!
  expect(nested.path).toBe('filter.all[1].any[0]')
  expect(JSON.stringify(nested.without.filter)).not.toContain('claimed')
})
