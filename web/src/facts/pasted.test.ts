import { expect, it } from 'vitest'
import { pastedLines } from './pasted'

it('cuts what was pasted into records and values', () => {
  expect(
    pastedLines('Vessel\tdry dock from\r\nTarn Heron\t2026-12-01\r\n\r\n"Lady ""L"""\t', 'Dry dock from'),
  ).toEqual([
    { record: 'Tarn Heron', value: '2026-12-01' },
    { record: 'Lady "L"', value: '' },
  ])
  expect(pastedLines('7;1,5\n8', 'X')).toEqual([
    { record: '7', value: '1,5' },
    { record: '8', value: '' },
  ])
  expect(pastedLines('a,b,c', 'X')).toEqual([{ record: 'a', value: 'b,c' }])
  expect(pastedLines(' \n', 'X')).toEqual([])
})
