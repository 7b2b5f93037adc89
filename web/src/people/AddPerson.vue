<script setup lang="ts">
import { ref } from 'vue'
import { wordsOf } from '../api/problem'
import { roles, type Managing, type Person } from './usePeople'

/** Lets somebody new in; her first password is shown this once. */
const props = defineProps<{ managing: Managing }>()
const emit = defineEmits<{ added: [id: number] }>()
const open = ref(false)
const name = ref('')
const email = ref('')
const role = ref<Person['role']>('analyst')
const password = ref(true)
const { add } = props.managing
function write() {
  add.mutate(
    { name: name.value, email: email.value.trim(), role: role.value, password: password.value },
    {
      onSuccess: (got) => {
        open.value = false
        name.value = email.value = ''
        emit('added', got.person.id)
      },
    },
  )
}
</script>

<template>
  <div>
    <div v-if="add.data.value?.fresh" class="mb-3 bg-pine-wash p-3" role="status" data-fresh>
      {{ add.data.value.person.name }} signs in with
      <code class="font-mono select-all">{{ add.data.value.fresh }}</code>, and chooses another then. Note it
      now; it is not shown again.
    </div>
    <button v-if="!open" class="link" data-add-person @click="open = true">Add somebody …</button>
    <form v-else class="space-y-2 border-t-3 border-mulberry bg-sheet p-4" @submit.prevent="write">
      <label class="block"
        ><span class="font-medium">Name</span
        ><input v-model="name" class="field" name="person-name" maxlength="120" required autofocus
      /></label>
      <label class="block"
        ><span class="font-medium">E-mail address</span
        ><input v-model="email" class="field" name="person-email" type="email" maxlength="200" required
      /></label>
      <label class="block"
        ><span class="font-medium">Role</span
        ><select v-model="role" class="field" name="person-role">
          <option v-for="r in roles" :key="r.role" :value="r.role">{{ r.label }}: {{ r.may }}</option>
        </select></label
      >
      <label class="flex items-baseline gap-1.5"
        ><input v-model="password" type="checkbox" class="accent-mulberry" /> signs in with a password</label
      >
      <p v-if="add.error.value" class="text-mulberry" role="alert">{{ wordsOf(add.error.value) }}</p>
      <p class="flex justify-end gap-3">
        <button type="button" class="button" @click="open = false">Cancel</button
        ><button class="button button-act" type="submit" :disabled="add.isPending.value">Add</button>
      </p>
    </form>
  </div>
</template>
