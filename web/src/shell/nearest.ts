/** What can be found by typing, in parts from the weightiest to the least. */
export interface Findable {
  name: string
  /** What it belongs to: the links to a field, the record set of a definition. */
  path?: string
  /** What programs call it. */
  key?: string
  /** What kind of thing it is. */
  kind?: string
  meaning?: string
  values?: readonly string[]
  /** It comes after everything else that is found: keys that few look for. */
  last?: boolean
}

const fillers = new Set(['a', 'an', 'and', 'at', 'by', 'in', 'of', 'on', 'or', 'the', 'to', 'with'])

/** The words of a text: in small letters, without accents and without the 's of whose it is. */
export function wordsIn(text: string): string[] {
  return text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/['’]s?(?=\s|$)/g, '')
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
}

/** The words that are looked for; fillers count only where there is nothing else. */
export function wordsSought(typed: string): string[] {
  const words = wordsIn(typed)
  const telling = words.filter((w) => !fillers.has(w))
  return telling.length ? telling : words
}

/** A word without the ending of its plural, roughly: enough to meet its singular. */
const stem = (word: string) =>
  word.length > 3 ? word.replace(/(?<=s|x|z|ch|sh)es$|(?<!s)s$/, '').replace(/ie$/, 'y') : word

/**
 * Letters to add, drop, change or swap with the next to come from one word to another, up to a limit:
 * the distance of Damerau and Levenshtein in its restricted form.
 */
export function lettersApart(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1
  let before: number[] = []
  let last = Array.from({ length: b.length + 1 }, (_, j) => j)
  for (let i = 1; i <= a.length; i++) {
    const row = [i]
    for (let j = 1; j <= b.length; j++) {
      const change = a[i - 1] === b[j - 1] ? 0 : 1
      let least = Math.min(last[j]! + 1, row[j - 1]! + 1, last[j - 1]! + change)
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        least = Math.min(least, before[j - 2]! + 1)
      row.push(least)
    }
    before = last
    last = row
  }
  return last[b.length]!
}

const none = Number.POSITIVE_INFINITY

/** How far a word that is sought is from a word that is there; misspelt ones only if that is asked. */
function distance(sought: string, word: string, mend: boolean): number {
  if (word === sought) return 0
  if (stem(word) === stem(sought)) return 0.5
  if (word.startsWith(sought)) return 1
  if (word.length > 3 && sought.startsWith(word)) return 2
  if (sought.length > 2 && word.includes(sought)) return 3
  const limit = sought.length < 4 ? 0 : sought.length < 8 ? 1 : 2
  if (!mend || !limit) return none
  const begun = word.slice(0, sought.length) // as far as it is typed
  const off = Math.min(lettersApart(sought, word, limit), lettersApart(sought, begun, limit))
  return off <= limit ? 3 + off : none
}

interface Parts {
  words: readonly string[]
  weight: number
  mend: boolean
}

function partsOf(thing: Findable): Parts[] {
  const part = (text: string | undefined, weight: number, mend: boolean): Parts[] =>
    text ? [{ words: wordsIn(text), weight, mend }] : []
  return [
    ...part(thing.name, 0, true),
    ...part(thing.path, 3, true),
    ...part(thing.key, 4, true),
    ...part(thing.kind, 5, false),
    ...part(thing.meaning, 6, false),
    ...part(thing.values?.join(' '), 7, false),
  ]
}

/** How near a thing is to what is sought; infinite if some word is nowhere in it. */
function farness(sought: readonly string[], thing: Findable): number {
  const parts = partsOf(thing)
  let sum = 0
  for (const word of sought) {
    let least = none
    for (const { words, weight, mend } of parts)
      for (const w of words) least = Math.min(least, weight + distance(word, w, mend))
    if (least === none) return none
    sum += least
  }
  const name = wordsIn(thing.name)
  const whole = name.join(' ') === sought.join(' ')
  // Of two that hold the words, the one that says little else is meant; the nearer one, too.
  return sum - (whole ? 3 : 0) + 0.2 * name.length + 0.4 * (thing.path ? thing.path.split('›').length : 0)
}

/** The things that have all the words sought, the nearest first, in their own order where equally near. */
export function nearest<T>(typed: string, things: readonly T[], describe: (thing: T) => Findable): T[] {
  const sought = wordsSought(typed)
  const found: { thing: T; far: number; last: boolean }[] = []
  for (const thing of things) {
    const described = describe(thing)
    const far = sought.length ? farness(sought, described) : 0
    if (far !== none) found.push({ thing, far, last: !!described.last })
  }
  return found.sort((a, b) => Number(a.last) - Number(b.last) || a.far - b.far).map((f) => f.thing)
}
