/**
 * Colours of series, in an order in which neighbours differ in lightness as well as in
 * hue, so that readers who do not tell hues apart tell them apart. Each stands out from the sheet by
 * 3 to 1 (WCAG 2.2, 1.4.11).
 */
const many = {
  light: ['#1f5c4d', '#b3761a', '#7a2e4d', '#5c9585', '#3d5670', '#bd7490', '#4d483d', '#6c8cad', '#6f6242'],
  dark: ['#83c8b4', '#a8711d', '#e59ab8', '#4a8f7c', '#a3bdd8', '#a85a7d', '#cfc4ae', '#64859f', '#a89a80'],
}
const shades: Record<string, { light: [string, string]; dark: [string, string] }> = {
  pine: { light: ['#123a30', '#639a89'], dark: ['#a6dccb', '#477f6f'] },
  mulberry: { light: ['#561a33', '#c07a97'], dark: ['#f2bccf', '#a05b79'] },
  slate: { light: ['#25374a', '#7592b0'], dark: ['#c3d6ea', '#5d7a96'] },
}

export function coloursOf(tint: string | undefined, count: number, dark: boolean): string[] {
  const scheme = dark ? 'dark' : 'light'
  const ends = shades[tint ?? '']?.[scheme]
  if (!ends) return many[scheme]
  return Array.from({ length: count }, (_, i) =>
    between(ends[0], ends[1], count === 1 ? 0.25 : i / (count - 1)),
  )
}

function between(from: string, to: string, share: number): string {
  const channel = (hex: string, at: number) => parseInt(hex.slice(at, at + 2), 16)
  const mix = [1, 3, 5].map((at) =>
    Math.round(channel(from, at) + (channel(to, at) - channel(from, at)) * share),
  )
  return `#${mix.map((v) => v.toString(16).padStart(2, '0')).join('')}`
}
