<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Document } from '../api/client'
import { wordsOf } from '../api/problem'
import DialogFrame from '../shell/DialogFrame.vue'
import { formatCount } from '../words'
import { actOf, clipboardLines, flatLines, sizeOf, type What } from './choices'
import ColumnChoice from './ColumnChoice.vue'
import DepthSelect from './DepthSelect.vue'
import FileChoice from './FileChoice.vue'
import LinesChoice from './LinesChoice.vue'
import LinkOffer from './LinkOffer.vue'
import PaperChoice from './PaperChoice.vue'
import PaperPreview from './PaperPreview.vue'
import PreviewLines from './PreviewLines.vue'
import SpreadsheetChoice from './SpreadsheetChoice.vue'
import { useTakeAway, type Taken } from './useTakeAway'

/** Takes a result away: as what, with what in it, and how it will look, before anything is made. */
const props = defineProps<{ of: Taken }>()
const emit = defineEmits<{
  close: []
  /** It is made, or was handed on. */
  taken: []
  said: [text: string]
  paper: [paper: Document['paper']]
}>()
const {
  choices,
  options,
  columns,
  preview,
  paper,
  paperChanged,
  keepAsUsual,
  document,
  levels,
  crosstab,
  busy,
  trouble,
  tooMany,
  go,
} = useTakeAway(props.of, (said) => {
  keepPaper()
  emit('taken')
  emit('close')
  if (said) emit('said', said)
})
/** What the levels of groups are called, from whichever preview came last. */
const said = ref<readonly string[]>([])
watch(
  () => preview.data.value?.levels,
  (now) => (said.value = now ?? said.value),
  { immediate: true },
)
const names = computed(() => (props.of.document?.groups ?? []).map((_, i) => said.value[i] ?? ''))
const several = props.of.keys?.length ?? 0
/** The pages can be made as they are set up. */
const fits = ref(false)
const onPaper = computed(() => choices.value.what === 'paper')
function usual() {
  keepAsUsual()
  emit('said', 'Views that are not set up for paper begin like this from now on.')
}
/** What was set up for paper stays with the view. */
function keepPaper() {
  if (paperChanged()) emit('paper', document.value?.paper)
}
const ready = computed(
  () => several > 0 || (onPaper.value ? fits.value : !!found.value && !preview.error.value),
)
const whats: { what: What; name: string }[] = [
  { what: 'paper', name: 'Paper' },
  { what: 'spreadsheet', name: 'Spreadsheet' },
  { what: 'file', name: 'Data file' },
  ...(several ? [] : [{ what: 'clipboard' as const, name: 'Clipboard' }]),
]
const picksColumns = computed(
  () => !onPaper.value && options.value.rows !== 'ledger' && columns.value.length > 1,
)
const found = computed(() => preview.data.value)
</script>

<template>
  <DialogFrame
    :title="several ? `Take ${several} views away` : 'Take away'"
    :width="980"
    acts
    data-take-away
    @close="emit('close')"
  >
    <form @submit.prevent="go">
      <div class="mb-4 flex gap-1 border-b border-rule" role="radiogroup" aria-label="As what">
        <label
          v-for="w in whats"
          :key="w.what"
          class="cursor-pointer border-b-2 px-3 py-1.5 has-focus-visible:outline-2 has-focus-visible:outline-mulberry"
          :class="choices.what === w.what ? 'border-mulberry font-medium' : 'border-transparent text-mute'"
          ><input
            v-model="choices.what"
            type="radio"
            class="sr-only"
            name="what"
            :value="w.what"
            :data-what="w.what"
          />{{ w.name }}</label
        >
      </div>
      <div class="grid grid-cols-[17rem_minmax(0,1fr)] gap-6 max-md:grid-cols-1">
        <div class="grid content-start gap-4">
          <PaperChoice
            v-if="onPaper && !several"
            v-model="paper"
            v-model:depth="choices.spreadsheet.depth"
            :levels="names"
            :records="!crosstab"
            @usual="usual"
          />
          <label v-else-if="onPaper" class="flex items-baseline gap-2"
            ><span class="quiet whitespace-nowrap">down to</span
            ><DepthSelect v-model="choices.spreadsheet.depth" :levels="[]" records
          /></label>
          <SpreadsheetChoice
            v-else-if="choices.what === 'spreadsheet'"
            v-model="choices.spreadsheet"
            :levels="names"
            :records="!crosstab"
            :several="several > 0"
          />
          <FileChoice v-else-if="choices.what === 'file'" v-model="choices.file" :records="!crosstab" />
          <LinesChoice v-else v-model="choices.clipboard.rows" :choices="flatLines(!crosstab)" />
          <ColumnChoice v-if="picksColumns" v-model="choices.left" :columns="columns" />
        </div>
        <PaperPreview
          v-if="onPaper && document"
          class="min-w-0"
          :name="of.name"
          :document="document"
          :depth="choices.spreadsheet.depth"
          :frozen="of.frozen"
          @fits="(yes) => (fits = yes)"
          @levels="(now) => (said = now)"
        />
        <div v-else-if="!several" class="min-w-0" :class="preview.isPlaceholderData.value && 'opacity-60'">
          <p v-if="preview.error.value" class="text-mulberry" role="alert" data-preview-trouble>
            {{ wordsOf(preview.error.value) }}
          </p>
          <template v-else-if="found">
            <PreviewLines
              :headings="found.headings"
              :numeric="found.numeric"
              :lines="found.first"
              :all="found.lines"
            />
            <p class="mt-2" data-expected>
              {{ formatCount(found.lines) }} {{ found.lines === 1 ? 'line' : 'lines' }}
              <template v-if="choices.what !== 'clipboard'"
                >· {{ found.exact ? '' : 'about ' }}{{ sizeOf(found.bytes) }}</template
              >
              <template v-if="found.sheets > 1">· on {{ found.sheets }} sheets, one after the other</template>
              <template v-if="!found.lines">: the view keeps no records</template>
            </p>
            <ul v-if="found.notes.length" class="quiet mt-1 list-disc pl-5 text-xs" data-notes>
              <li v-for="n in found.notes" :key="n">{{ n }}</li>
            </ul>
            <p v-if="tooMany" class="mt-1 text-mulberry" role="alert">
              The clipboard takes {{ formatCount(clipboardLines) }} lines. Take a file.
            </p>

            <LinkOffer
              v-if="of.key && choices.what === 'file'"
              :view="of.key"
              :name="of.name"
              :options="options"
            />
          </template>
        </div>
        <p v-else class="quiet min-w-0">
          Each view becomes a file of its own, with the answers that it proposes; all come in one archive.
        </p>
      </div>
      <p v-if="trouble" class="mt-3 text-mulberry" role="alert">{{ trouble }}</p>
      <p class="mt-5 flex items-baseline justify-end gap-3">
        <span
          v-if="options.format === 'xlsx' && options.rows === 'ledger' && levels"
          class="quiet mr-auto text-xs"
          >Totals arrive as formulas wherever a spreadsheet can say them.</span
        >
        <button type="button" class="button" @click="emit('close')">Cancel</button>
        <button type="submit" class="button button-act" data-take :disabled="busy || tooMany || !ready">
          {{ actOf(choices) }}
        </button>
      </p>
    </form>
  </DialogFrame>
</template>
