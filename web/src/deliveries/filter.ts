/** Whether some texts together hold every word that was typed, whatever its capitals. */
export function saysAll(words: string, ...texts: readonly string[]): boolean {
  const said = texts.join(' ').toLowerCase()
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => said.includes(word))
}
