/** Something beside fields that a finder offers, such as records that link here. */
export interface Extra {
  name: string
  about: string
  choose: () => void
}
