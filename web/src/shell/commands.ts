import { computed, onScopeDispose, shallowReactive, type ComputedRef } from 'vue'
import { usePersonal } from '../session/usePersonal'

/** Something that can be done, known to keys, to "find anything", to the list of keys and to hints. */
export interface Command {
  id: string
  title: string
  /** As a list of keys shows it: "f", "Ctrl S", "Ctrl Shift Z". Several are apart by two blanks. */
  key?: string
  /** It can be done now; always, if nothing is said. */
  when?: () => boolean
  /** Its key works while something is typed or an editor is open, too; the editor is kept first. */
  anywhere?: boolean
  /** None: what has the focus acts on the key itself, and this only says so. */
  run?: () => void
}

type Source = () => readonly Command[]
const sources = shallowReactive(new Set<Source>())
/** Brings what is open to rest before a command takes over; whether it may. */
const settlers = new Set<() => Promise<boolean>>()

/** Offers commands for as long as the screen or part that calls it is there. */
export function useCommands(source: Source) {
  sources.add(source)
  onScopeDispose(() => sources.delete(source))
}

/** Says how what is open here is kept before a command that works anywhere runs. */
export function useSettling(settle: () => Promise<boolean>) {
  settlers.add(settle)
  onScopeDispose(() => settlers.delete(settle))
}

export const allCommands = computed(() => [...sources].flatMap((source) => source()))
export const able = (c: Command) => !c.when || c.when()

/** What can be done now. */
export const commands = computed(() => allCommands.value.filter((c) => c.run && able(c)))

export function runCommand(id: string) {
  commands.value.find((c) => c.id === id)?.run?.()
}

/** Commands that can be carried out now, as a menu shows them. */
export const commandActs = (ids: readonly string[], hint: (id: string) => string) =>
  ids
    .flatMap((id) => commands.value.find((c) => c.id === id) ?? [])
    .map((c) => ({ id: c.id, title: c.title, key: hint(c.id), run: () => c.run?.() }))

/** A key that types something when it is pressed where one types. */
export const typesSomething = (key: string) => key.length === 1

/** Keys of one character, which a person can turn off. */
export function useSingleKeys() {
  return usePersonal('single keys', true)
}

/** The key of a command, for a hint beside what it does; empty while it does nothing. */
export function useKeyHints(): ComputedRef<(id: string) => string> {
  const single = useSingleKeys()
  return computed(() => {
    const keys = new Map(allCommands.value.map((c) => [c.id, c.key?.split('  ')[0] ?? '']))
    return (id: string) => {
      const key = keys.get(id) ?? ''
      return typesSomething(key) && !single.value ? '' : shownKey(key)
    }
  })
}

const signs: Record<string, string> = { ArrowLeft: '←', ArrowRight: '→', Escape: 'Esc' }
/** A key as people read it. */
export const shownKey = (key: string) => signs[key] ?? key

/** What a key is called in a command. */
function nameOf(event: KeyboardEvent): string {
  if (!event.ctrlKey && !event.metaKey) return event.key
  return `Ctrl ${event.shiftKey ? 'Shift ' : ''}${event.key.toUpperCase()}`
}

function commandOf(event: KeyboardEvent): Command | undefined {
  const name = nameOf(event)
  return allCommands.value.find((c) => c.run && c.key?.split('  ').includes(name))
}

/** Dialogs over the whole screen come first; they have no commands. */
const modal = () => document.querySelector('[role=dialog]:not([data-popover])') !== null

/** Carries keys out, once for the whole application. */
export function useKeys() {
  const single = useSingleKeys()

  async function anywhere(event: KeyboardEvent) {
    const command = commandOf(event)
    if (!command?.anywhere) return
    // The browser's own act on that key would be another one each time.
    event.preventDefault()
    event.stopPropagation()
    if (modal()) return
    for (const settle of settlers) if (!(await settle())) return
    if (able(command)) command.run?.()
  }
  function elsewhere(event: KeyboardEvent) {
    const target = event.target as HTMLElement
    if (event.defaultPrevented || event.altKey) return
    if (target.closest?.('input, textarea, select, [contenteditable=true], [role=dialog], [role=menu]'))
      return
    if (typesSomething(event.key) && !(event.ctrlKey || event.metaKey) && !single.value) return
    const command = commandOf(event)
    if (!command || command.anywhere || modal()) return
    event.preventDefault()
    if (able(command)) command.run?.()
  }
  const early = (event: KeyboardEvent) => void anywhere(event)
  addEventListener('keydown', early, true)
  addEventListener('keydown', elsewhere)
  onScopeDispose(() => {
    removeEventListener('keydown', early, true)
    removeEventListener('keydown', elsewhere)
  })
}
