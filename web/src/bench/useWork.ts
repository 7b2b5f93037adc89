import { useQueryClient } from '@tanstack/vue-query'
import { onScopeDispose, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, body, type Document } from '../api/client'
import { Problem } from '../api/problem'
import { stayOnScreen } from '../router'
import { freshKey, type History, type Step } from './useHistory'
import type { Opened } from './useOpened'
import { stash, unstash } from './unsent'

/** A step is sent after so long, so that its answer comes first, in milliseconds. */
const courtesy = 250

/** What is sent again after so long when the server did not answer, in milliseconds. */
const patience = 3_000

/**
 * Keeps unsaved work on the server as it is made, and every step of it under an
 * address of its own, so that Back and Forward walk through them and a link leads
 * to each. Work that the server has not taken is kept in the browser meanwhile.
 */
export function useWork(history: History, opened: Opened, place: Ref<string>, title: Ref<string>, changed: Ref<boolean>) {
  const router = useRouter()
  const route = useRoute()
  const client = useQueryClient()
  let draft = { ...opened.draft }
  const base = ref(draft.base)
  const waiting: Step[] = []
  let sending: Promise<void> | null = null
  let closed = false
  /** The newest state is on the server: its link works for others. */
  const safe = ref(true)

  async function send() {
    await pause(courtesy)
    let refused = 0
    // Leaving the screen does not stop it: what was made is to be on the desk.
    while (waiting.length) {
      const step = waiting[0]!
      try {
        const got = await body(api.PUT('/api/drafts/{id}', {
          params: { path: { id: draft.id } },
          body: { place: place.value, title: title.value, base: base.value, state: step.key, revision: draft.revision, document: step.document },
        }))
        draft.revision = got.revision
        refused = 0
        waiting.shift()
      } catch (error) {
        if (!(error instanceof Problem)) throw error
        if (error.status === 409 && !refused++) { // another tab has gone on with this draft
          unstash(draft.id)
          draft = { ...draft, id: freshKey(), revision: 0 }
        } else if (error.status === 422 || error.status === 409) waiting.shift() // it cannot be kept, only worked on
        else if (closed) return // it stays in the browser until this bench is opened again
        else await pause(patience)
      }
    }
    unstash(draft.id)
    safe.value = true
    if (closed) void client.invalidateQueries({ queryKey: ['drafts'] })
  }
  const pause = (time: number) => new Promise((done) => setTimeout(done, time))

  function keep(step: Step) {
    // The view as opened may come again by undo; its address is the view's own.
    if (!step.key) return
    safe.value = false
    waiting.push(step)
    stash({ draft: draft.id, place: place.value, title: title.value, base: base.value, state: step.key, document: step.document, at: Date.now() })
    sending ??= send().finally(() => (sending = null))
  }

  async function drop() {
    waiting.length = 0
    unstash(draft.id)
    await sending // what is under way would bring back what is dropped
    const { id, revision } = draft
    if (waiting.length) return // worked on again meanwhile
    draft = { ...draft, id: freshKey(), revision: 0 }
    if (revision) await body(api.DELETE('/api/drafts/{id}', { params: { path: { id } } })).catch(() => undefined) // it stands on the desk, to be dropped there
    void client.invalidateQueries({ queryKey: ['drafts'] })
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
  watch(history.now, (step, before) => {
    if (step === before) return
    going = going.then(() => painted()).then(() => {
      if (history.now.value !== step || address() === step.key) return // gone on meanwhile
      own = step.key
      return router.push(show(step.key))
    })
    if (changed.value) keep(step)
    else void drop()
  }, { flush: 'post' })

  watch(() => route.query.at, async () => {
    const key = address()
    if (key === own) return void (own = null)
    if (route.path !== place.value || key === history.now.value.key) return
    const index = history.steps.value.findIndex((s) => s.key === key)
    if (index >= 0) return history.goTo(index)
    if (!key) return
    const got = await body(api.GET('/api/states/{key}', { params: { path: { key } } })).catch(() => null)
    if (got && key === address()) history.step(got.document as Document, key)
  })
  onScopeDispose(() => {
    closed = true
    void client.invalidateQueries({ queryKey: ['drafts'] })
  })

  /** The view was saved as it stands, under an address of its own: nothing is left unsaved. */
  function saved(version: number, to: string) {
    base.value = version
    history.settle()
    void drop()
    going = going.then(() => {
      if (route.path !== to) stayOnScreen()
      return router.replace({ path: to, query: { answers: route.query.answers } })
    })
  }
  return { base, safe, saved, drop }
}
