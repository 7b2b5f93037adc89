import dagre from '@dagrejs/dagre'
import type { RecordSet } from '../api/client'

/** A record set on the map, by the middle of its box. */
export interface Spot {
  set: RecordSet
  x: number
  y: number
  width: number
  height: number
}

/** A link on the map: the points of its line, and what it is called. */
export interface Line {
  from: string
  to: string
  label: string
  path: string
  middle: { x: number; y: number }
}

const letter = 7.2
const boxHeight = 46

/** Lays record sets out so that links lead to the right, and cross as little as can be. */
export function layOut(sets: readonly RecordSet[]) {
  const graph = new dagre.graphlib.Graph({ multigraph: true })
  graph.setGraph({ rankdir: 'LR', nodesep: 22, ranksep: 96, edgesep: 14, marginx: 12, marginy: 12 })
  graph.setDefaultEdgeLabel(() => ({}))
  for (const s of sets)
    graph.setNode(s.key, {
      width: Math.max(110, Math.min(230, s.label.length * letter + 34)),
      height: boxHeight,
    })
  const links = sets.flatMap((s) =>
    s.links
      .filter((l) => !l.hidden && l.to !== s.key && sets.some((o) => o.key === l.to))
      .map((l) => ({ from: s.key, ...l })),
  )
  // Links between the same two are one line that names them all.
  const between = new Map<string, { from: string; to: string; labels: string[] }>()
  for (const l of links) {
    const key = `${l.from}\n${l.to}`
    between.set(key, { from: l.from, to: l.to, labels: [...(between.get(key)?.labels ?? []), l.label] })
  }
  for (const [name, l] of between)
    graph.setEdge(
      l.from,
      l.to,
      { width: Math.max(...l.labels.map((t) => t.length)) * 6, height: 14 * l.labels.length, labelpos: 'c' },
      name,
    )
  dagre.layout(graph)
  const spots: Spot[] = sets.map((set) => {
    const { x, y, width, height } = graph.node(set.key)
    return { set, x, y, width, height }
  })
  const lines: Line[] = [...between].map(([name, l]) => {
    const edge = graph.edge({ v: l.from, w: l.to, name })
    const points: { x: number; y: number }[] = edge.points ?? []
    const path = points.reduce((d, p, i) => {
      if (i === 0) return `M${p.x},${p.y}`
      const before = points[i - 1]!
      const bend = (before.x + p.x) / 2
      return `${d} C${bend},${before.y} ${bend},${p.y} ${p.x},${p.y}`
    }, '')
    return {
      from: l.from,
      to: l.to,
      label: l.labels.join(', '),
      path,
      middle: { x: edge.x ?? points[0]!.x, y: edge.y ?? points[0]!.y },
    }
  })
  const size = graph.graph()
  return { spots, lines, width: size.width ?? 0, height: size.height ?? 0 }
}
