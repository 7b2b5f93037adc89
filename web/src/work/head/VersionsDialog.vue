<script setup lang="ts" generic="D extends Content">
import { useQuery } from '@tanstack/vue-query'
import { api, unwrap, type Content, type Saved } from '../../api/client'
import { queries } from '../../api/queries'
import { wordsOf } from '../../api/problem'
import DialogFrame from '../../shell/DialogFrame.vue'
import { formatDateTime } from '../../words'

/** Every version of a view, with what each changed; one can be looked at, and saved anew. */
const props = defineProps<{ view: Saved<D> }>()
const emit = defineEmits<{ show: [document: D, version: number]; close: [] }>()
const { data, error } = useQuery(queries.versions(props.view.key, props.view.version))
async function show(version: number) {
  const got = await unwrap(
    api.GET('/api/views/{key}/versions/{version}', { params: { path: { key: props.view.key, version } } }),
  )
  emit('show', got.document as D, version)
}
</script>

<template>
  <DialogFrame :title="`Versions of “${view.name}”`" :width="640" @close="emit('close')">
    <p v-if="error" role="alert">{{ wordsOf(error) }}</p>
    <ol data-versions>
      <li
        v-for="v in data?.versions"
        :key="v.version"
        class="grid grid-cols-[3rem_1fr_auto] gap-x-3 border-b border-rule py-2"
      >
        <b class="font-medium">v{{ v.version }}</b>
        <div class="min-w-0">
          <p v-for="c in v.changes" :key="c">{{ c }}</p>
          <p v-if="!v.changes.length" class="quiet">
            {{ v.version === 1 ? 'As it was first saved' : 'Saved without a change' }}
          </p>
          <p class="quiet text-xs">{{ v.by }}, {{ formatDateTime(v.at) }}</p>
        </div>
        <span v-if="v.version === view.version" class="quiet text-xs">the one in use</span>
        <button v-else class="link self-start text-[13px]" :data-version="v.version" @click="show(v.version)">
          look at it
        </button>
      </li>
    </ol>
    <p class="quiet mt-4 text-xs">
      What you look at is one step of your work. Save it to bring it back; undo leaves all as it was.
    </p>
  </DialogFrame>
</template>
