import { computed, ref, watch } from 'vue'
import { api, unwrap, type Content, type Saved } from '../../api/client'
import { Problem, wordsOf } from '../../api/problem'
import { useMe } from '../../session/useMe'
import { useCommands } from '../../shell/commands'
import type { Work } from '../useWork'
import { useSaving, type Naming } from './useSaving'

type Open = 'name new' | 'name' | 'versions' | 'steps' | null

/** The acts on a view or a board as a whole: saving it under its name or another, and what goes with that. */
export function useHead<D extends Content>(work: Work<D>, what: string) {
  const { history, saved, changed, say } = work
  const { me } = useMe()
  const { add, save, remove, favorite, handOver } = useSaving<D>()
  /** The dialog that is open. */
  const open = ref<Open>(null)
  /** Version that is saved over; a newer one, once it was looked at. */
  const base = ref(work.drafts.base.value)
  watch(work.drafts.base, (now) => (base.value = now))
  const trouble = computed(() => {
    const error =
      add.error.value ??
      save.error.value ??
      remove.error.value ??
      favorite.error.value ??
      handOver.error.value
    return error ? wordsOf(error) : ''
  })
  /** A save is under way: another would meet it as if it were somebody else's. */
  const writing = computed(() => add.isPending.value || save.isPending.value)

  function name(how: 'name new' | 'name') {
    add.reset()
    save.reset()
    open.value = how
  }
  function write(as: Naming) {
    if (writing.value) return
    const document = history.kept.value
    const done = {
      onSuccess: (view: Saved<D>) => {
        open.value = null
        work.onSaved(view, document)
      },
    }
    if (open.value !== 'name new' && saved.value)
      save.mutate(
        { ...as, document, key: saved.value.key, base: base.value },
        { ...done, onError: (e) => conflicted(e, as) },
      )
    else add.mutate({ ...as, document }, done)
  }
  function saveNow() {
    if (writing.value || !(changed.value || !saved.value)) return
    if (!me.value?.saves)
      return say(`Readers try ${what}s out and keep links to them; to save needs the role of an analyst.`)
    if (!saved.value?.editable) return name('name new')
    const { name: called, description, shares, label, mark, template } = saved.value
    write({ name: called, description, shares, label, mark, template })
  }

  /** What was to be saved when somebody else turned out to have saved meanwhile. */
  const conflict = ref<Naming | null>(null)
  function conflicted(error: unknown, as: Naming) {
    if (!(error instanceof Problem) || error.status !== 409) return
    open.value = null
    save.reset()
    conflict.value = as
  }
  /** Writes over a version that was looked at; it stays among the versions. */
  function writeOver(theirs: Saved<D>) {
    const as = conflict.value
    conflict.value = null
    if (!as) return
    base.value = theirs.version
    write(as)
  }
  function takeTheirs(theirs: Saved<D>) {
    conflict.value = null
    work.takeTheirs(theirs)
  }
  function saveApart() {
    conflict.value = null
    name('name new')
  }

  function hand(to: number) {
    if (!saved.value) return
    handOver.mutate(
      { key: saved.value.key, to },
      {
        onSuccess: (view) => {
          open.value = null
          if (view) saved.value = view
          else void work.removed()
          say('It is handed over.')
        },
      },
    )
  }
  function removeIt() {
    if (saved.value) remove.mutate(saved.value.key, { onSuccess: () => void work.removed() })
  }
  function keepOn(whose: { everyone?: boolean; group?: number; on: boolean }) {
    if (saved.value)
      favorite.mutate({ key: saved.value.key, ...whose }, { onSuccess: (v) => (saved.value = v) })
  }
  function showVersion(document: D, version: number) {
    open.value = null
    history.step(document)
    say(`Version ${version} is on the work. Save it to bring it back.`)
  }
  async function copyLink() {
    const at = new URLSearchParams(location.search).get('at')
    // The state may still be on its way to the server; it is kept for 90 days in any case.
    if (at)
      await unwrap(api.PUT('/api/states/{key}/lasting', { params: { path: { key: at } } })).catch(
        () => undefined,
      )
    try {
      await navigator.clipboard.writeText(location.href)
      say(`The link leads to the ${what} as it stands now.`)
    } catch {
      say(`The browser did not allow copying. The link is in the address line: ${location.href}`)
    }
  }

  useCommands(() => [
    { id: 'save', title: 'Save', key: 'Ctrl S', anywhere: true, run: saveNow },
    {
      id: 'save-as',
      title: `Save as another ${what} …`,
      when: () => !!me.value?.saves && !!saved.value,
      run: () => name('name new'),
    },
    {
      id: 'name',
      title: saved.value?.owned ? 'Name, label and sharing …' : 'Name …',
      when: () => !!saved.value?.editable,
      run: () => name('name'),
    },
    { id: 'copy-link', title: 'Copy a link to this', run: () => void copyLink() },
    {
      id: 'steps',
      title: 'Steps that led here …',
      when: () => history.steps.value.length > 1,
      run: () => (open.value = 'steps'),
    },
    {
      id: 'versions',
      title: 'Versions …',
      when: () => !!saved.value,
      run: () => (open.value = 'versions'),
    },
  ])
  return {
    open,
    base,
    trouble,
    writing,
    write,
    saveNow,
    conflict,
    writeOver,
    takeTheirs,
    saveApart,
    hand,
    removeIt,
    keepOn,
    showVersion,
  }
}
