<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Column, Field } from '../../api/client'
import FormatEditor from './FormatEditor.vue'

/** One column of the list: its heading and totals and, when opened, everything else that can be set of it. */
const props = defineProps<{ column: Column; field: Field | undefined; dragged: boolean }>()
const emit = defineEmits<{ change: [change: Partial<Column>]; total: [fn: string]; remove: [] }>()
const open = ref(false)
/** Totals that the column has not; they are offered when asked for. */
const offered = ref(false)
const has = (fn: string) => !!props.column.totals?.some((t) => t.fn === fn)
const shown = computed(() => (props.field?.fns ?? []).filter((f) => offered.value || has(f.fn)))
const offerWords = computed(() => (offered.value ? 'fewer' : shown.value.length ? 'more …' : 'total …'))
const more = computed(() => (props.field?.fns ?? []).some((f) => !has(f.fn)))
const typed = (event: Event) => (event.target as HTMLInputElement).value.trim()
const label = () => props.field?.label ?? props.column.field
</script>

<template>
  <div class="min-w-0 flex-1" :class="dragged && 'bg-mulberry-wash'">
    <div class="flex items-center gap-2">
      <input
        class="field w-44 shrink-0 py-0.5"
        :class="column.hidden && 'opacity-60'"
        :value="column.heading ?? ''"
        :placeholder="label()"
        :aria-label="`Heading of ${label()}`"
        @change="emit('change', { heading: typed($event) || undefined })"
      />
      <span class="flex min-w-0 flex-1 flex-wrap gap-x-2.5 text-xs">
        <button
          v-for="f in shown"
          :key="f.fn"
          class="border-b"
          :aria-pressed="has(f.fn)"
          :class="has(f.fn) ? 'border-mulberry font-medium text-mulberry' : 'quiet border-transparent'"
          @click="emit('total', f.fn)"
        >
          {{ f.label }}
        </button>
        <button
          v-if="more"
          class="quiet border-b border-dashed border-edge"
          :aria-expanded="offered"
          :aria-label="`${offerWords} totals of ${label()}`"
          data-offer-totals
          @click="offered = !offered"
        >
          {{ offerWords }}
        </button>
      </span>
      <button
        class="link shrink-0 text-xs"
        :aria-expanded="open"
        :aria-label="`${open ? 'done' : column.hidden ? 'hidden' : 'set'}: ${label()}`"
        data-set-column
        @click="open = !open"
      >
        {{ open ? 'done' : column.hidden ? 'hidden' : 'set' }}
      </button>
      <button
        class="quiet px-1.5 text-base"
        :aria-label="`Take out ${label()}`"
        title="Take out"
        @click="emit('remove')"
      >
        ×
      </button>
    </div>
    <div v-if="open" class="space-y-1.5 py-2 pl-1">
      <FormatEditor
        v-if="field"
        :field="field"
        :format="column.format"
        @change="emit('change', { format: $event })"
      />
      <p class="flex flex-wrap items-baseline gap-x-4 text-xs">
        <label class="flex items-baseline gap-1.5"
          ><span class="quiet">Width</span
          ><input
            class="field !w-20 py-0.5"
            type="number"
            min="40"
            max="1200"
            placeholder="by itself"
            :value="column.width ?? ''"
            @change="
              emit('change', {
                width: Number(typed($event))
                  ? Math.max(40, Math.min(1200, Number(typed($event))))
                  : undefined,
              })
            "
        /></label>
        <label class="flex items-baseline gap-1.5"
          ><input
            type="checkbox"
            :checked="!!column.frozen"
            data-frozen
            @change="emit('change', { frozen: !column.frozen || undefined })"
          />
          stays in sight</label
        >
        <label v-if="field?.numeric" class="flex items-baseline gap-1.5"
          ><input
            type="checkbox"
            :checked="!!column.bars"
            data-bars
            @change="emit('change', { bars: !column.bars || undefined })"
          />
          bars behind the figures</label
        >
        <label class="flex items-baseline gap-1.5"
          ><input
            type="checkbox"
            :checked="!!column.hidden"
            data-hidden
            @change="emit('change', { hidden: !column.hidden || undefined })"
          />
          hidden</label
        >
      </p>
    </div>
  </div>
</template>
