<script setup lang="ts">
import { ref } from 'vue'
import { wordsOf } from '../api/problem'
import Mark from '../shell/Mark.vue'
import { useSession } from './useMe'

/** Again: the session ended in the middle of work, which stays behind this. */
defineProps<{ again?: boolean }>()
const { signIn } = useSession()
const email = ref('')
const password = ref('')

function submit() {
  signIn.mutate({ email: email.value, password: password.value })
}
</script>

<template>
  <main class="grid min-h-screen grid-cols-1 md:grid-cols-[1fr_1.15fr]">
    <section class="flex flex-col justify-between bg-band p-10 text-on-band max-md:hidden">
      <Mark />
      <p class="heading max-w-sm text-3xl leading-snug">
        Every view says, in one sentence, what its numbers are.
      </p>
      <p class="max-w-sm opacity-80">
        Filter, group and total the records of your application; save what you found as a view that others open with one click.
      </p>
    </section>
    <section class="flex items-center justify-center p-8">
      <form class="w-full max-w-xs" @submit.prevent="submit">
        <h1 class="heading mb-6 text-2xl">{{ again ? 'Sign in again' : 'Sign in' }}</h1>
        <p v-if="again" class="quiet -mt-4 mb-5">Your session has ended. What you have typed is kept; you go on where you were.</p>
        <label class="mb-4 block">
          <span class="mb-1 block font-medium">E-mail address</span>
          <input v-model="email" class="field" type="email" name="email" autocomplete="username" required autofocus />
        </label>
        <label class="mb-5 block">
          <span class="mb-1 block font-medium">Password</span>
          <input v-model="password" class="field" type="password" name="password" autocomplete="current-password" required />
        </label>
        <button class="button button-act w-full" type="submit" :disabled="signIn.isPending.value">Sign in</button>
        <p v-if="signIn.error.value" class="mt-4 text-mulberry" role="alert">{{ wordsOf(signIn.error.value) }}</p>
      </form>
    </section>
  </main>
</template>
