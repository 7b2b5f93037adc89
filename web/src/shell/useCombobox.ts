import { ref, useId, watch, type Ref } from 'vue'

/**
 * A line to type in over a list to choose from, after the WAI-ARIA pattern "editable combobox with
 * list". What is found is the caller's; this moves among it, chooses, and says it to screen readers.
 */
export function useCombobox<T>(found: Readonly<Ref<readonly T[]>>, choose: (item: T) => void) {
  const id = useId()
  const at = ref(0)
  watch(found, () => (at.value = 0))

  function move(by: number) {
    at.value = Math.max(0, Math.min(found.value.length - 1, at.value + by))
    document.getElementById(`${id}-${at.value}`)?.scrollIntoView({ block: 'nearest' })
  }
  function onKeydown(event: KeyboardEvent) {
    const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8 }[event.key]
    if (by !== undefined) move(by)
    else if (event.key === 'Enter' && found.value[at.value] !== undefined) choose(found.value[at.value]!)
    else return
    event.preventDefault()
  }
  return {
    at,
    onKeydown,
    input: () => ({
      type: 'text',
      role: 'combobox',
      autocomplete: 'off',
      'aria-expanded': found.value.length > 0,
      'aria-controls': id,
      'aria-activedescendant': found.value.length ? `${id}-${at.value}` : undefined,
    }),
    list: { id, role: 'listbox' },
    option: (index: number) => ({
      id: `${id}-${index}`,
      role: 'option',
      'aria-selected': index === at.value,
      onMousemove: () => (at.value = index),
      onClick: () => choose(found.value[index]!),
    }),
  }
}
