import { computed, onScopeDispose, ref, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import type { Content, Saved } from '../api/client'
import { sameDocument } from './sameDocument'
import { useDraftSync } from './unsaved/useDraftSync'
import { useHistory } from './useHistory'
import type { Source } from './useSource'

/**
 * Work on a document that is saved, whether a view or a board: what it was saved as, every step since, and
 * what becomes of it.
 */
export function useWork<D extends Content>(
  source: Source<D>,
  /** What a new one is, what it is called, and the address of a saved one. */
  kind: { begin: D; title: string; at: (key: string) => string },
) {
  const router = useRouter()
  const saved = ref<Saved<D> | null>(source.saved) as Ref<Saved<D> | null>
  const place = ref(router.currentRoute.value.path)
  const start = computed<D>(() => saved.value?.document ?? source.template?.document ?? kind.begin)
  const title = computed(() => saved.value?.name ?? kind.title)
  const history = useHistory<D>(source.start)
  const changed = computed(() => !sameDocument(history.kept.value, start.value))
  const drafts = useDraftSync(history, source, place, title, changed)

  /** Something that was done, told for a moment. */
  const said = ref('')
  let hush: ReturnType<typeof setTimeout> | undefined
  function say(text: string) {
    clearTimeout(hush)
    said.value = text
    hush = setTimeout(() => (said.value = ''), 6_000)
  }
  onScopeDispose(() => clearTimeout(hush))

  function onSaved(now: Saved<D>, document: D) {
    saved.value = now
    place.value = kind.at(now.key)
    drafts.saved(document, now.version, place.value)
  }
  /** Goes on from what somebody else saved meanwhile; one's own is a step back. */
  function takeTheirs(theirs: Saved<D>) {
    saved.value = theirs
    drafts.base.value = theirs.version
    history.step(theirs.document)
  }
  async function removed() {
    await drafts.drop()
    void router.replace('/')
  }
  return {
    source,
    saved,
    place,
    start,
    title,
    history,
    changed,
    drafts,
    said,
    say,
    onSaved,
    takeTheirs,
    removed,
  }
}

export type Work<D extends Content> = ReturnType<typeof useWork<D>>
