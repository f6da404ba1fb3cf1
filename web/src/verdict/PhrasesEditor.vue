<script setup lang="ts">
// The phrase book: a phrase to a line; names in braces are filled with figures of the picture.
import { onMounted, ref } from 'vue'
import { api, data } from '../api/client'
import { messageOf } from '../shell/events'

const emit = defineEmits<{ close: []; saved: [] }>()
const lines = ref('')
const version = ref(0)
const problem = ref('')
onMounted(async () => {
  try {
    const now = await data(api.GET('/api/phrases'))
    version.value = now.version
    lines.value = now.phrases.join('\n')
  } catch (e) {
    problem.value = messageOf(e)
  }
})
async function save() {
  const phrases = lines.value.split('\n').map((l) => l.trim()).filter(Boolean)
  try {
    await data(api.PUT('/api/phrases', { body: { version: version.value, phrases } }))
    emit('saved')
    emit('close')
  } catch (e) {
    problem.value = messageOf(e)
  }
}
</script>

<template>
  <BModal :model-value="true" title="Phrase book" size="lg" ok-title="Save" cancel-title="Leave it" cancel-variant="secondary" @ok.prevent="save" @hidden="emit('close')">
    <label class="w-100">A phrase to a line<BFormTextarea v-model="lines" rows="12" data-test="phrase-lines" /></label>
    <p class="quiet small m-0">Names in braces are filled with figures of the picture: <code>{key_elevation_deg}</code>, <code>{contrast_stops}</code>, <code>{background_under_stops}</code>; of a take also <code>{key_up}</code>, <code>{key_round}</code>, <code>{key_size}</code>, <code>{exposure}</code> against the reference.</p>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
  </BModal>
</template>
