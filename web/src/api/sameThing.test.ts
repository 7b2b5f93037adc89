import { expect, it } from 'vitest'
import { ofSameThing } from './sameThing'

it('keeps an answer of the same thing, and of no other', () => {
  const kept = ofSameThing({ head: 1, group: 'a' })
  const asked = (thing: unknown) => ({ queryKey: ['explain', thing, 'the view before'] })
  expect(kept('before', asked({ head: 1, group: 'a' }))).toBe('before')
  expect(kept('before', asked({ head: 1, group: 'b' }))).toBeUndefined()
  expect(kept('before', undefined)).toBeUndefined()
})
