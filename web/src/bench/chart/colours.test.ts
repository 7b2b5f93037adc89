import { describe, expect, it } from 'vitest'
import { coloursOf } from './colours'

/** Relative luminance of a colour, after WCAG 2.2. */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5]
    .map((at) => parseInt(hex.slice(at, at + 2), 16) / 255)
    .map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4))
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!
}
const contrast = (a: string, b: string) => {
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (light! + 0.05) / (dark! + 0.05)
}

describe.each([
  ['light', '#fffdf8'],
  ['dark', '#221f1b'],
])('on the %s sheet', (scheme, sheet) => {
  it.each(['', 'pine', 'mulberry', 'slate'])('every colour of “%s” stands out by 3 to 1', (tint) => {
    for (const colour of coloursOf(tint, 9, scheme === 'dark'))
      expect([colour, contrast(colour, sheet) >= 3]).toEqual([colour, true])
  })
  it('neighbours differ in lightness', () => {
    const list = coloursOf(undefined, 9, scheme === 'dark')
    for (const [i, colour] of list.slice(1).entries())
      expect([list[i], colour, contrast(list[i]!, colour) >= 1.25]).toEqual([list[i], colour, true])
  })
})
