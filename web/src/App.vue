<script setup lang="ts">
import { wordsOf } from './api/problem'
import SignIn from './session/SignIn.vue'
import { useMe } from './session/useMe'
import FindAnything from './shell/FindAnything.vue'
import TopBar from './shell/TopBar.vue'

const { me, error } = useMe()
</script>

<template>
  <p v-if="error" class="p-10" role="alert">{{ wordsOf(error) }}</p>
  <div v-else-if="me" class="flex h-screen flex-col">
    <TopBar :me="me" />
    <FindAnything />
    <RouterView :key="$route.path" class="min-h-0 flex-1" />
  </div>
  <SignIn v-else-if="me === null" />
</template>
