import { useQueryClient } from '@tanstack/vue-query'
import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, unwrap, type Content } from '../../api/client'
import { forget } from '../../api/queries'
import { Problem } from '../../api/problem'
import { stayOnScreen } from '../../router'
import { freshKey, type History, type Step } from '../useHistory'
import type { Source } from '../useSource'
import { DraftQueue, type DraftName, type Written } from './draftQueue'
import { useDropDraft } from './useDropDraft'
import { useUnsent } from './useUnsent'

/** How long a pause is, in milliseconds. */
const pauses = {
  // so that a step's answer comes before it is sent
  courtesy: 250,
  // until a server that did not answer is asked again
  silence: 3_000,
}

/**
 * Keeps unsaved work on the server as it is made, and every step of it under an
 * address of its own, so that Back and Forward walk through them and a link leads
 * to each. Work that the server has not taken is kept in the browser meanwhile.
 */
export function useDraftSync<D extends Content>(
  history: History<D>,
  opened: Pick<Source<D>, 'start' | 'draft'>,
  place: Ref<string>,
  title: Ref<string>,
  changed: Ref<boolean>,
) {
  const router = useRouter()
  const route = useRoute()
  const client = useQueryClient()
  const unsent = useUnsent()
  const dropDraft = useDropDraft()
  const base = ref(opened.draft.base)
  /** The newest state is on the server: its link works for others. */
  const safe = ref(true)
  let closed = false

  async function put(draft: DraftName, step: Step<D>): Promise<Written> {
    try {
      const got = await unwrap(
        api.PUT('/api/drafts/{id}', {
          params: { path: { id: draft.id } },
          body: {
            place: place.value,
            title: title.value,
            base: base.value,
            state: step.key,
            revision: draft.revision,
            document: step.document,
          },
        }),
      )
      return { kind: 'taken', revision: got.revision }
    } catch (error) {
      if (!(error instanceof Problem)) throw error
      if (error.status === 409) return { kind: 'stale' }
      return { kind: error.status === 422 ? 'refused' : 'silent' }
    }
  }
  const listed = () => forget(client, 'drafts')
  const queue = new DraftQueue<D>(
    opened.draft,
    {
      put,
      drop: ({ id }) => dropDraft(id).catch(() => undefined), // else it is dropped from the desk
      pause: (why) => new Promise((done) => setTimeout(done, pauses[why])),
      freshId: () => freshKey(),
      stash: (draft, { key, document }) =>
        unsent.stash({
          draft,
          place: place.value,
          title: title.value,
          base: base.value,
          state: key,
          document,
          at: Date.now(),
        }),
      unstash: unsent.unstash,
    },
    (now) => {
      safe.value = now
      if (now && closed) void listed()
    },
  )
  /** Sends what is on the screen, or drops the draft if that is what is saved. */
  function sync() {
    const step = history.now.value
    if (!changed.value) queue.drop()
    // The view as opened may come again by undo; its address is the view's own.
    else if (step.key) queue.put(step)
  }

  const address = () => (typeof route.query.at === 'string' ? route.query.at : '')
  const show = (key: string) => ({ path: route.path, query: { ...route.query, at: key || undefined } })
  if (address() !== opened.start.key) void router.replace(show(opened.start.key))

  /** Changes of the address, one after the other; none holds a paint up. */
  let going: Promise<unknown> = Promise.resolve()
  /** The key of an address that was made here: coming to it is no wish of the reader's. */
  let own: string | null = null
  const painted = () => new Promise<void>((done) => requestAnimationFrame(() => setTimeout(done)))
  // Steps in time order: a step back or forward is a visit of its own.
  watch(
    history.now,
    (step, before) => {
      if (step === before) return
      going = going
        .then(() => painted())
        .then(() => {
          if (history.now.value !== step || address() === step.key) return // gone on meanwhile
          own = step.key
          return router.push(show(step.key))
        })
      if (step.document !== before.document) sync()
    },
    { flush: 'post' },
  )

  watch(
    () => route.query.at,
    async () => {
      const key = address()
      if (key === own) return void (own = null)
      if (route.path !== place.value || key === history.now.value.key) return
      const index = history.steps.value.findIndex((s) => s.key === key)
      if (index >= 0) return history.goTo(index)
      if (!key) return
      const got = await unwrap(api.GET('/api/states/{key}', { params: { path: { key } } })).catch(() => null)
      if (got && key === address()) history.step(got.document as D, key)
    },
  )
  onScopeDispose(() => {
    closed = true
    queue.close()
    void listed()
  })

  /**
   * A document was saved, under an address of the view's own. What was done while the save was
   * under way goes on as unsaved work.
   */
  function saved(document: D, version: number, to: string) {
    base.value = version
    history.settle(document)
    queue.drop()
    if (changed.value) queue.put(history.now.value)
    const { key } = history.now.value
    going = going.then(() => {
      if (route.path !== to) stayOnScreen()
      own = key
      return router.replace({ path: to, query: { answers: route.query.answers, at: key || undefined } })
    })
  }
  async function drop() {
    queue.drop()
    await queue.settled()
  }
  return { base, safe, saved, drop }
}
