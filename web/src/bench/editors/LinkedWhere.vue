<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Condition, Document, Field, LinkBy } from '../../api/client'
import { complete, likeliest, startOf } from './condition'
import ConditionForm from './ConditionForm.vue'
import FieldFinder from './FieldFinder.vue'

/** Which of the linked records count: all, or those that meet every one of some conditions. */
const props = defineProps<{ source: Pick<LinkBy, 'records' | 'many'>; fields: readonly Field[] }>()
const where = defineModel<Condition[]>({ required: true })
const byPath = computed(() => new Map(props.fields.map((f) => [f.path, f])))
const context = computed<Document>(() => ({ gavrik: 1, records: props.source.records, columns: [] }))
const finding = ref(false)
const editing = ref<number | null>(null)

function choose(field: Field) {
  const start = complete(startOf(field), field) ?? { field: field.path, op: likeliest(field) }
  editing.value = where.value.length
  where.value = [...where.value, start]
  finding.value = false
}
function change(at: number, c: Condition | null) {
  if (c) where.value = where.value.map((had, i) => (i === at ? c : had))
}
function takeOut(at: number) {
  where.value = where.value.filter((_, i) => i !== at)
  editing.value = null
}
const simple = (c: Condition) => (c.field ? byPath.value.get(c.field) : undefined)
</script>

<template>
  <h3 class="quiet mt-4 mb-1">
    {{ where.length ? `Of the ${source.many}, those count where` : `All ${source.many} count.` }}
  </h3>
  <div v-for="(c, i) in where" :key="i" class="border-b border-rule py-2">
    <ConditionForm
      v-if="simple(c) && editing === i"
      :field="simple(c)!"
      :condition="c"
      :context="context"
      :fields="fields"
      @change="change(i, $event)"
    />
    <p class="flex gap-4">
      <span class="flex-1">{{ simple(c)?.label ?? 'several conditions together' }}</span>
      <button v-if="simple(c) && editing !== i" class="link" @click="editing = i">change</button>
      <button class="link" @click="takeOut(i)">take out</button>
    </p>
  </div>
  <FieldFinder
    v-if="finding"
    class="mt-2"
    :fields="fields.filter((f) => f.kind !== 'per_total')"
    :hint="`Type to find a field of the ${source.many}`"
    @choose="choose"
  />
  <button v-else class="link mt-1" data-where @click="finding = true">
    {{ where.length ? 'and …' : 'only some of them …' }}
  </button>
</template>
