<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { wordsOf } from './api/problem'
import SignInPage from './session/SignInPage.vue'
import { useMe } from './session/useMe'
import Shell from './shell/Shell.vue'

const { me, error } = useMe()
/** Who works here. A session that ends in the middle of work leaves the screen as it is. */
const worker = shallowRef(me.value)
/** What a tab remembers belongs to the person who works in it. */
function startTab(person: number) {
  const key = 'gavrik.person'
  if (sessionStorage.getItem(key) !== String(person)) sessionStorage.clear()
  sessionStorage.setItem(key, String(person))
}
const interrupted = computed(() => me.value === null && !!worker.value)
watch(
  me,
  (now, before) => {
    if (now) startTab(now.id)
    if (now && worker.value && before === null && now.id !== worker.value.id)
      location.reload() // somebody else: nothing of hers is shown
    else if (now) worker.value = now
  },
  { immediate: true },
)
</script>

<template>
  <p v-if="error && !worker" class="p-10" role="alert">{{ wordsOf(error) }}</p>
  <Shell v-else-if="worker" :me="worker" :inert="interrupted" />
  <div v-if="interrupted" class="fixed inset-0 z-[60] overflow-auto bg-paper/95"><SignInPage again /></div>
  <SignInPage v-else-if="me === null" />
</template>
