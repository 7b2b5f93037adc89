/** Headers that ask a kept result in place of the records as they are. */
export const askKept = (kept?: string) => (kept ? { 'Gavrik-Kept': kept } : undefined)
