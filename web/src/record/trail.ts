/** The records of the ledger that one was opened from, in its order, for previous and next. */
interface Trail { set: string; from: string; keys: string[] }
const place = 'gavrik trail'

export function keepTrail(trail: Trail) {
  sessionStorage.setItem(place, JSON.stringify(trail))
}

export function trailOf(set: string): Trail | null {
  try {
    const kept = JSON.parse(sessionStorage.getItem(place) ?? 'null') as Trail | null
    return kept?.set === set ? kept : null
  } catch {
    return null
  }
}
