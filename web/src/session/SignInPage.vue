<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import {} from '../api/client'
import { queries } from '../api/queries'
import { Problem, wordsOf } from '../api/problem'
import Mark from '../shell/Mark.vue'
import { useSession } from './useMe'

/** Again: the session ended in the middle of work, which stays behind this. */
defineProps<{ again?: boolean }>()
const { signIn } = useSession()
const route = useRoute()
const choices = useQuery(queries.signInChoices())
const elsewhere = computed(() =>
  choices.data.value?.provider
    ? `${choices.data.value.address}?to=${encodeURIComponent(location.pathname + (route.query.refused ? '' : location.search))}`
    : '',
)
const refusals: Record<string, string> = {
  silent: 'does not answer. Try again in a moment, or sign in with a password.',
  declined: 'did not sign you in. Try again.',
  unproven: 'has not confirmed your e-mail address. Confirm it there, and try again.',
  unknown: 'knows you, but nobody with your e-mail address may use Gavrik. Ask an administrator to add you.',
  failed: 'was asked, and something went wrong on the way back. Try again.',
}
const refused = computed(() => refusals[String(route.query.refused ?? '')])
const email = ref('')
const password = ref('')

const code = ref('')
/** The password is right, and whose it is has a second factor. */
const asksCode = ref(false)
function submit() {
  signIn.mutate(
    { email: email.value, password: password.value, ...(code.value ? { code: code.value } : {}) },
    {
      onError: (problem) => {
        if (problem instanceof Problem && problem.faults.some((f) => f.path === 'code')) asksCode.value = true
      },
    },
  )
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
        Filter, group and total the records of your application; save what you found as a view that others
        open with one click.
      </p>
    </section>
    <section class="flex items-center justify-center p-8">
      <form class="w-full max-w-xs" @submit.prevent="submit">
        <h1 class="heading mb-6 text-2xl">{{ again ? 'Sign in again' : 'Sign in' }}</h1>
        <p v-if="again" class="quiet -mt-4 mb-5">
          Your session has ended. What you have typed is kept; you go on where you were.
        </p>
        <label class="mb-4 block">
          <span class="mb-1 block font-medium">E-mail address</span>
          <input
            v-model="email"
            class="field"
            type="email"
            name="email"
            autocomplete="username"
            required
            autofocus
          />
        </label>
        <label class="mb-5 block">
          <span class="mb-1 block font-medium">Password</span>
          <input
            v-model="password"
            class="field"
            type="password"
            name="password"
            autocomplete="current-password"
            required
          />
        </label>
        <label v-if="asksCode" class="mb-5 block">
          <span class="mb-1 block font-medium">Code of your app</span>
          <input
            v-model="code"
            class="field font-mono tracking-widest"
            name="code"
            autocomplete="one-time-code"
            required
            autofocus
            @vue:mounted="({ el }: { el: HTMLInputElement }) => el.focus()"
          />
          <span class="quiet text-xs">Or one of your spare codes</span>
        </label>
        <button class="button button-act w-full" type="submit" :disabled="signIn.isPending.value">
          Sign in
        </button>
        <p v-if="signIn.error.value" class="mt-4 text-mulberry" role="alert">
          {{ wordsOf(signIn.error.value) }}
        </p>
        <a v-if="elsewhere" :href="elsewhere" class="button mt-3 w-full" data-elsewhere
          >Sign in with {{ choices.data.value?.provider }}</a
        >
        <p v-if="refused && choices.data.value?.provider" class="mt-4 text-mulberry" role="alert">
          {{ choices.data.value.provider }} {{ refused }}
        </p>
      </form>
    </section>
  </main>
</template>
