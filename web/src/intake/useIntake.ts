import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch, type Ref } from 'vue'
import { api, unwrap, type FileLook, type FileRecipe, type FileSettings, type Upload } from '../api/client'
import { queries } from '../api/queries'
import { sendFile } from './sending'

/** The file that somebody has just chosen elsewhere, for the page that takes it in. */
export const chosen = ref<{ file: File; into: string } | null>(null)

/** One file on its way in: sent, looked at, read to the side, and brought in. */
export function useIntake(id: Ref<string>, into: Ref<string>) {
  const client = useQueryClient()
  const upload = useQuery(
    computed(() => ({
      ...queries.upload(id.value),
      enabled: !!id.value,
      refetchInterval: (q: { state: { data?: Upload } }) =>
        q.state.data?.state === 'reading' && !q.state.data.lost ? 400 : false,
    })),
  )
  const keep = (u: Upload) => client.setQueryData(queries.upload(u.id).queryKey, u)
  const path = () => ({ params: { path: { id: id.value } } })

  // Sending
  const received = ref(0)
  let stop = new AbortController()
  const sending = useMutation({
    mutationFn: async ({ file, upload: u }: { file: File; upload: Upload }) => {
      stop = new AbortController()
      received.value = u.received
      const at = { path: { id: u.id } }
      await sendFile(file, {
        from: u.received,
        signal: stop.signal,
        told: (n) => (received.value = n),
        ask: (signal) => unwrap(api.GET('/api/uploads/{id}', { params: at, signal })),
        put: (from, part, signal) =>
          unwrap(
            api.PUT('/api/uploads/{id}/parts', {
              params: { ...at, query: { at: from } },
              body: part as unknown as string,
              bodySerializer: (body: unknown) => body as Blob,
              headers: { 'Content-Type': 'application/octet-stream' },
              signal,
            }),
          ),
      })
    },
    onSettled: (_, __, { upload: u }) =>
      client.invalidateQueries({ queryKey: queries.upload(u.id).queryKey }),
  })
  const begin = (file: File) =>
    unwrap(api.POST('/api/uploads', { body: { file: file.name, size: file.size } })).then((u) => {
      keep(u)
      return u
    })

  // Looking: each change asks again, and the last answer counts.
  const look = ref<FileLook | null>(null)
  const recipe = ref<FileRecipe | null>(null)
  let asked = 0
  const looking = useMutation({
    mutationFn: async (by: { settings?: FileSettings; recipe?: FileRecipe }) => {
      const mine = ++asked
      const got = await unwrap(
        api.POST('/api/uploads/{id}/look', {
          ...path(),
          body: {
            settings: by.settings ?? {},
            recipe: by.recipe,
            into: into.value || undefined,
          },
        }),
      )
      if (mine !== asked) return
      look.value = got
      recipe.value = got.recipe
    },
  })
  watch(
    () => upload.data.value?.state,
    (state) => {
      if (state && state !== 'arriving' && !look.value) {
        const job = upload.data.value?.job
        looking.mutate(job ? { settings: job.recipe.settings, recipe: job.recipe } : {})
      }
    },
    { immediate: true },
  )
  /** Reads the file otherwise: all columns are guessed anew. */
  const readAs = (settings: FileSettings) => looking.mutate({ settings })
  /** Changes what becomes of a column. */
  function change(next: FileRecipe) {
    recipe.value = next
    looking.mutate({ settings: look.value?.settings, recipe: next })
  }

  // Reading and bringing in
  const reading = useMutation({
    mutationFn: () =>
      unwrap(
        api.POST('/api/uploads/{id}/read', {
          ...path(),
          body: {
            recipe: { ...recipe.value!, settings: look.value!.settings },
            into: into.value || undefined,
          },
        }),
      ).then(keep),
  })
  const stopping = useMutation({
    mutationFn: () => unwrap(api.POST('/api/uploads/{id}/stop', path())),
    onSettled: () => upload.refetch(),
  })
  return {
    upload,
    begin,
    sending,
    received,
    stopSending: () => stop.abort(),
    look,
    recipe,
    looking,
    readAs,
    change,
    reading,
    stopping,
  }
}

export type Intake = ReturnType<typeof useIntake>
