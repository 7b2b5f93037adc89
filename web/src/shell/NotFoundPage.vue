<template>
  <main class="p-10">
    <h1 class="heading mb-2 text-2xl">There is nothing at this address</h1>
    <RouterLink class="link" to="/">Go to your desk</RouterLink>
  </main>
</template>
