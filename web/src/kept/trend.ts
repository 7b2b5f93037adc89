import type { KeptResult } from '../api/client'

type Total = KeptResult['totals'][number]

/** A total that some kept results have: what it is called, and where it stands. */
export interface Measure {
  name: string
  label: string
}

/** One kept result on a line through all of them. */
export interface Point {
  key: string
  at: string
  text: string
  value: number
}

const nameOf = (t: Total) => `${t.path} ${t.fn}`

/** The totals that can be followed through kept results, the count of records first. */
export function measuresOf(kept: readonly KeptResult[]): Measure[] {
  const all = new Map<string, Measure>()
  for (const k of kept)
    for (const t of k.totals)
      if (t.value && !all.has(nameOf(t))) all.set(nameOf(t), { name: nameOf(t), label: t.label })
  return [...all.values()]
}

/** Hours, minutes and seconds as hours; other values are plain decimals. */
function numberOf(value: string): number {
  const clock = /^(-?)(\d+):(\d+)(?::(\d+))?$/.exec(value)
  if (!clock) return Number(value)
  const hours = Number(clock[2]) + Number(clock[3]) / 60 + Number(clock[4] ?? 0) / 3600
  return clock[1] ? -hours : hours
}

/** A total through kept results, in the order in which they were kept. Those that have none of it are left out. */
export function trendOf(kept: readonly KeptResult[], measure: string): Point[] {
  return [...kept]
    .sort((a, b) => Date.parse(a.at) - Date.parse(b.at))
    .flatMap((k) => {
      const t = k.totals.find((one) => nameOf(one) === measure)
      const value = t?.value ? numberOf(t.value) : NaN
      return Number.isFinite(value) ? [{ key: k.key, at: k.at, text: t!.text, value }] : []
    })
}

/** Where the points of a trend stand in a box: time to the right, values upwards, with room at the edges. */
export function placed(points: readonly Point[], width: number, height: number, edge = 12) {
  const times = points.map((p) => Date.parse(p.at))
  const values = points.map((p) => p.value)
  const along = (v: number, all: number[], size: number) => {
    const [low, high] = [Math.min(...all), Math.max(...all)]
    return high === low ? size / 2 : edge + ((v - low) / (high - low)) * (size - 2 * edge)
  }
  return points.map((p, i) => ({
    ...p,
    x: along(times[i]!, times, width),
    y: height - along(p.value, values, height),
  }))
}
