<script setup lang="ts">
import { ref } from 'vue'
import type { Content, Saved } from '../../api/client'
import { groundOf, marks, type Mark } from '../../library/marks'
import HandOver from '../../sharing/HandOver.vue'
import ShareField from '../../sharing/ShareField.vue'
import type { Share } from '../../sharing/shares'
import DialogFrame from '../../shell/DialogFrame.vue'
import type { Naming } from './useSaving'

/** Names a view and says who sees it. Who may only change it names and describes it. */
const props = defineProps<{
  saved: Saved<Content> | null
  /** It becomes another view. */
  fresh: boolean
  brief: string
  /** What it is: "view" or "board". */
  what: string
  busy: boolean
  trouble: string
}>()
const emit = defineEmits<{ save: [what: Naming]; close: []; remove: []; handOver: [to: number] }>()
const old = props.fresh ? null : props.saved
const owned = !old || old.owned
const name = ref(old?.name ?? (props.saved ? `${props.saved.name}, copy` : ''))
const description = ref(props.saved?.description ?? '')
const shares = ref<readonly Share[]>(old?.shares ?? [])
const label = ref(old?.label ?? '')
const mark = ref<Mark>(old?.mark ?? '')
const template = ref(!!old?.template)
</script>

<template>
  <DialogFrame
    :title="fresh ? `Save as a new ${what}` : 'Name, label and sharing'"
    tone="mulberry"
    :width="600"
    acts
    @close="emit('close')"
  >
    <form @submit.prevent="emit('save', { name, description, shares, label, mark, template })">
      <p class="quiet mb-4 line-clamp-3 font-serif">{{ brief }}</p>
      <label class="mb-3 block"
        ><span class="mb-1 block font-medium">Name</span
        ><input v-model="name" class="field" name="name" maxlength="120" required
      /></label>
      <label class="mb-3 block"
        ><span class="mb-1 block font-medium">What it is for</span
        ><textarea
          v-model="description"
          class="field"
          name="description"
          rows="2"
          maxlength="2000"
        ></textarea>
      </label>
      <template v-if="owned">
        <ShareField v-model="shares" totals />
        <label class="mb-4 flex items-baseline gap-1.5"
          ><input v-model="template" type="checkbox" name="template" class="accent-mulberry" /> A template:
          whoever opens it begins a {{ what }} of their own, and this one stays as it is</label
        >
        <div class="mb-5 space-y-3">
          <label class="flex items-baseline gap-2"
            ><span class="font-medium">Label</span
            ><input v-model="label" class="field !w-40 py-1" name="label" maxlength="40" placeholder="none"
          /></label>
          <fieldset class="flex items-center gap-3">
            <legend class="float-left mr-3 font-medium">Colour</legend>
            <label
              v-for="m in ['', ...marks] as Mark[]"
              :key="m"
              class="inline-flex items-center gap-1 text-[13px]"
              ><input v-model="mark" type="radio" name="mark" :value="m" class="accent-mulberry" /><span
                v-if="m"
                class="inline-block h-3.5 w-1.5"
                :class="groundOf(m)"
              ></span
              >{{ m || 'none' }}</label
            >
          </fieldset>
        </div>
      </template>
      <p v-else class="quiet mb-4">Its owner says who sees it.</p>
      <p v-if="trouble" class="mb-3 text-mulberry" role="alert">{{ trouble }}</p>
      <HandOver
        v-if="old?.owned"
        class="mb-4 border-t border-rule pt-3"
        @hand="(to) => emit('handOver', to)"
      />
      <p class="flex items-center justify-end gap-3">
        <button
          v-if="old?.owned"
          type="button"
          class="link mr-auto"
          title="It can be taken back, from the list of views"
          @click="emit('remove')"
        >
          Put it into the bin
        </button>
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button type="submit" class="button button-act" :disabled="busy || !name.trim()">Save</button>
      </p>
    </form>
  </DialogFrame>
</template>
