<script setup lang="ts">
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap } from '../api/client'
import { wordsOf } from '../api/problem'
import { forget } from '../api/queries'
import type { Options } from './choices'

/**
 * An address from which another program, such as a spreadsheet's own web query, reads a saved view ever
 * anew. It holds a token that runs this view alone, is shown once, and can be taken back.
 */
const props = defineProps<{ view: string; name: string; options: Options }>()
const client = useQueryClient()
const lasts = 366 // days
const link = useMutation({
  mutationFn: () =>
    unwrap(
      api.POST('/api/tokens', {
        body: { name: `Link to ${props.name}`.slice(0, 80), days: lasts, view: props.view },
      }),
    ),
  onSuccess: () => forget(client, 'tokens'),
})
const address = computed(() => {
  if (!link.data.value) return ''
  const { format, rows, columns, separator, encoding, keys, guard } = props.options
  const query = new URLSearchParams({ format })
  if (rows) query.set('rows', rows)
  if (columns) query.set('columns', columns.join(','))
  if (separator) query.set('separator', separator)
  if (encoding) query.set('encoding', encoding)
  if (keys) query.set('keys', 'true')
  if (guard) query.set('people', 'true')
  query.set('token', link.data.value.token)
  return `${location.origin}/api/views/${props.view}/result?${query.toString()}`
})
</script>

<template>
  <section class="mt-4 border-t border-rule pt-3">
    <div v-if="address" class="bg-pine-wash p-3" role="status">
      <p class="mb-1">
        Copy it now; it is not shown again. Whoever has it reads this view as you do, until it ends in a year
        or you revoke it among your tokens.
      </p>
      <code class="block font-mono text-xs break-all select-all" data-link>{{ address }}</code>
    </div>
    <p v-else class="quiet">
      A program can read this view anew each time, as a spreadsheet’s web query does.
      <button
        type="button"
        class="link"
        data-make-link
        :disabled="link.isPending.value"
        @click="link.mutate()"
      >
        Make a link for it
      </button>
    </p>
    <p v-if="link.error.value" class="text-mulberry" role="alert">{{ wordsOf(link.error.value) }}</p>
  </section>
</template>
