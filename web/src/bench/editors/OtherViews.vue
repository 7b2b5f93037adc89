<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { queries } from '../../api/queries'

/** The views of the same records, so that one can be run over what another keeps. */
const props = defineProps<{ label: string }>()
const emit = defineEmits<{ choose: [within: Schemas['Within']] }>()
const client = useQueryClient()
const { data } = useQuery(queries.views())
const views = computed(() => (data.value?.views ?? []).filter((v) => v.records === props.label && !v.broken))
async function choose(key: string) {
  if (!key) return
  const v = await client.fetchQuery(queries.view(key))
  emit('choose', { view: v.name, filter: v.document.filter })
}
</script>

<template>
  <label v-if="views.length" class="mt-3 flex items-baseline gap-3 border-t border-rule pt-2 text-[13px]"
    ><span class="quiet">Or keep what another view keeps</span>
    <select
      class="field !w-auto max-w-64 py-0.5"
      value=""
      data-other-views
      @change="choose(($event.target as HTMLSelectElement).value)"
    >
      <option value="">…</option>
      <option v-for="v in views" :key="v.key" :value="v.key">{{ v.name }}</option>
    </select></label
  >
</template>
