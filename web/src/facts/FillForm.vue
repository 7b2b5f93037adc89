<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { until } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Field } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { formatCount, formatRecent } from '../words'
import { useFilling, type Filled } from './useFilling'

/**
 * Fills a fact in for a record, or the same for many. What somebody else filled in meanwhile is shown, and
 * stays unless one says otherwise.
 */
const props = defineProps<{
  set: string
  one: string
  many: string
  field: Field
  records: readonly string[]
  /** What was typed already, in place of what stands there. */ typed?: string
  /** What is around it has the acts of its own. */
  bare?: boolean
}>()
const emit = defineEmits<{ done: [filled: Filled | null] }>()
const info = props.field.fillIn!
const { fill } = useFilling()
const single = props.records.length === 1
const history = useQuery({
  ...queries.factHistory(props.set, info.fact, props.records[0] ?? ''),
  enabled: single,
})
const value = ref(props.typed ?? '')
const was = ref<string>()
watch(
  () => history.data.value?.now,
  (now) => {
    if (now === undefined || was.value !== undefined) return
    was.value = now
    if (!value.value) value.value = now // else it was typed while this was on its way
  },
  { immediate: true },
)
const writing = ref(false)
const held = computed(() => fill.data.value?.held ?? [])
const reason = computed(() => fill.data.value?.unread[0]?.reason)
const ready = computed(() => !single || was.value !== undefined)

async function write(over = false) {
  if (writing.value) return
  writing.value = true
  await until(ready).toBe(true) // what stands there is on its way
  const values = props.records.map((record) => ({
    record,
    value: value.value,
    was: single && !over ? was.value : undefined,
  }))
  const got = await fill.mutateAsync({ set: props.set, fact: info.fact, values }).catch(() => null)
  writing.value = false
  if (!got || got.held.length || (got.unreads && !got.written)) return
  if (!got.written) return emit('done', null)
  const of = single ? props.records[0] : `${formatCount(got.written)} ${props.many}`
  const missing = got.unreads ? `; ${got.unreads} could not be` : ''
  const words = value.value.trim()
    ? `${props.field.label} of ${of} is filled in${missing}.`
    : `${props.field.label} of ${of} is emptied${missing}.`
  emit('done', { words, batch: got.batch, set: props.set, fact: info.fact })
}
defineExpose({ write })
</script>

<template>
  <form data-fill @submit.prevent="write()" @keydown.esc.stop.prevent="emit('done', null)">
    <p class="mb-1.5">
      <b class="font-medium">{{ field.label }}</b>
      <span class="quiet"> of {{ single ? records[0] : `${formatCount(records.length)} ${many}` }}</span>
      <span v-if="field.meaning" class="quiet block text-xs">{{ field.meaning }}</span>
    </p>
    <p class="flex items-center gap-2">
      <select
        v-if="info.choices.length || info.type === 'yesno'"
        v-model="value"
        class="field !w-auto min-w-40"
        name="fill"
        data-first
        :aria-label="field.label"
      >
        <option value="">nothing</option>
        <template v-if="info.type === 'yesno'"
          ><option value="yes">yes</option>
          <option value="no">no</option></template
        >
        <option v-for="c in info.choices" v-else :key="c" :value="c">{{ c }}</option>
      </select>
      <input
        v-else
        v-model="value"
        class="field"
        :class="info.type !== 'text' && '!w-44'"
        name="fill"
        data-first
        maxlength="2000"
        autocomplete="off"
        :type="info.type === 'date' && !typed ? 'date' : 'text'"
        :inputmode="info.type === 'decimal' || info.type === 'money' ? 'decimal' : undefined"
        :aria-label="field.label"
      />
      <template v-if="!bare"
        ><button class="button button-act" type="submit" data-fill-in :disabled="writing">Fill in</button>
        <button class="link" type="button" @click="emit('done', null)">Cancel</button></template
      >
    </p>
    <p v-if="reason" class="mt-1.5 text-mulberry" role="alert">{{ reason }}</p>
    <p v-if="fill.error.value" class="mt-1.5 text-mulberry" role="alert">{{ wordsOf(fill.error.value) }}</p>
    <p v-for="h in held" :key="h.record" class="mt-1.5 border-l-4 border-honey pl-2" role="alert" data-held>
      {{ h.by }} {{ h.value ? `filled in “${h.value}”` : 'emptied it' }} meanwhile,
      {{ formatRecent(new Date(h.at)) }}. Yours is not written.
      <button class="link" type="button" data-over @click="write(true)">Put yours in its place</button>
      <button class="link ml-2" type="button" @click="emit('done', null)">Keep theirs</button>
    </p>
    <ul v-if="history.data.value?.changes.length" class="quiet mt-2 text-xs" data-fill-history>
      <li v-for="(c, i) in history.data.value.changes.slice(0, 5)" :key="i">
        {{ formatRecent(new Date(c.at)) }}, {{ c.by }}: {{ c.before || 'nothing' }} →
        {{ c.after || 'nothing' }}
      </li>
    </ul>
  </form>
</template>
