<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { remakeScreen } from '../../router'
import { formatRecent } from '../../words'
import type { Earlier } from '../useSource'
import { useDropDraft } from './useDropDraft'

/** Says that unsaved work of another time waits, and goes on with it or drops it. */
const props = defineProps<{ earlier: Earlier }>()
const emit = defineEmits<{ gone: [] }>()
const router = useRouter()
const route = useRoute()
const dropDraft = useDropDraft()
const trouble = ref(false)

async function goOn() {
  await router.push({ path: route.path, query: { answers: route.query.answers, at: props.earlier.state } })
  remakeScreen()
}
async function drop() {
  try {
    await dropDraft(props.earlier.draft)
    emit('gone')
  } catch {
    trouble.value = true
  }
}
</script>

<template>
  <p class="mb-1 text-[13px] text-honey" data-earlier>
    Your work of {{ formatRecent(new Date(earlier.at)) }} is here:
    <button class="underline underline-offset-2" data-go-on @click="goOn">go on</button>, or
    <button class="underline underline-offset-2" data-drop-earlier @click="drop">drop it</button>
    <span v-if="trouble" role="alert"> The server does not answer; try again in a moment.</span>
  </p>
</template>
