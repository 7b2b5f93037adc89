/**
 * Colours of series, in an order in which neighbours differ in lightness as well as in
 * hue, so that readers who do not tell hues apart tell them apart.
 */
const many = {
  light: ['#1f5c4d', '#c98a2b', '#7a2e4d', '#8fb3a6', '#3d5670', '#d9a9bc', '#5f5a4e', '#9db4cc', '#b9ae98'],
  dark: ['#83c8b4', '#b3761a', '#e59ab8', '#3f7d6d', '#a3bdd8', '#8e4767', '#cfc4ae', '#56748f', '#7d7363'],
}
const shades: Record<string, { light: [string, string]; dark: [string, string] }> = {
  pine: { light: ['#123a30', '#cfe3da'], dark: ['#a6dccb', '#2a4a41'] },
  mulberry: { light: ['#561a33', '#ecd3dd'], dark: ['#f2bccf', '#57303f'] },
  slate: { light: ['#25374a', '#cfdae6'], dark: ['#c3d6ea', '#33465a'] },
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
