import { computed, shallowRef, watch } from 'vue'

/**
 * What an editor was opened on. A newer version that somebody else saved, or that comes with a change of
 * window, takes its place only while nothing has been typed; else the editor says so, and
 * what was typed stays. Taking the newer one makes the editor anew, which renew asks for.
 */
export function useHeld<T extends { version: number }>(
  current: () => T | null,
  edited: () => boolean,
  renew: () => void,
) {
  const held = shallowRef(current())
  const newer = computed(() => {
    const now = current()
    return now && held.value && now.version !== held.value.version ? now : null
  })
  watch(newer, (now) => {
    if (now && !edited()) renew()
  })
  return { held, newer }
}
