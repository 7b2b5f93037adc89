<script setup lang="ts">
import { computed } from 'vue'
import { formatCount } from '../words'
import { sizeOf } from './choices'
import { making, putAway, stop } from './making'

/** How far the files are that are being made, on every screen; quick ones are told of once they are there. */
const shown = computed(() => making.filter((m) => m.slow || m.state !== 'making'))
</script>

<template>
  <div v-if="shown.length" class="fixed right-4 bottom-4 z-40 grid w-80 gap-2 max-md:left-4 max-md:w-auto">
    <section
      v-for="m in shown"
      :key="m.id"
      class="border border-t-3 border-rule bg-sheet px-3 py-2 shadow-lg"
      :class="m.state === 'failed' ? 'border-t-mulberry' : 'border-t-ink'"
      role="status"
      :data-making="m.state"
    >
      <p class="flex items-baseline gap-3">
        <b class="min-w-0 flex-1 truncate font-medium" :title="m.name">{{ m.name }}</b>
        <button v-if="m.state === 'making'" class="link" data-stop @click="stop(m)">stop</button>
        <button v-else class="link" @click="putAway(m)">put away</button>
      </p>
      <p v-if="m.state === 'failed'" class="text-mulberry" role="alert">{{ m.trouble }}</p>
      <p v-else-if="m.state === 'taken'" class="quiet">It is among your downloads.</p>
      <template v-else>
        <progress
          class="my-1 block h-1.5 w-full appearance-none [&::-webkit-progress-bar]:bg-rule [&::-webkit-progress-value]:bg-pine [&::-moz-progress-bar]:bg-pine"
          :max="Math.max(1, m.lines)"
          :value="m.done"
          :aria-label="`How far ${m.name} is`"
        ></progress>
        <p class="quiet text-xs">
          {{ formatCount(m.done) }} of {{ formatCount(m.lines) }} lines
          <template v-if="m.bytes">· {{ sizeOf(m.bytes) }}</template>
        </p>
      </template>
    </section>
  </div>
</template>
