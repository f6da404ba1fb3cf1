<script setup lang="ts">
// Notices: how many are unread, and where they lead.
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Notices } from '../api/client'

const router = useRouter()
const all = ref<Notices | null>(null)
const EVERY_MS = 60_000
let timer: ReturnType<typeof setInterval> | undefined
async function load() {
  try {
    all.value = await data(api.GET('/api/notices'))
  } catch {
    // the next look may find the server again
  }
}
onMounted(() => {
  void load()
  timer = setInterval(() => void load(), EVERY_MS)
})
onBeforeUnmount(() => clearInterval(timer))
async function seen() {
  if (!all.value?.unread) return
  try {
    await api.POST('/api/notices')
    all.value = { ...all.value, unread: 0 }
  } catch {
    // they stay unread
  }
}
</script>

<template>
  <BDropdown v-if="all?.notices.length" size="sm" variant="secondary" end :text="all.unread ? `Notices (${all.unread})` : 'Notices'" data-test="notices" @shown="seen">
    <BDropdownItemButton v-for="n in all.notices.slice(0, 12)" :key="n.id" @click="n.link && router.push(n.link)"><span :class="{ fw: !n.seen }">{{ n.says }}</span></BDropdownItemButton>
  </BDropdown>
</template>

<style scoped>
.fw {
  font-weight: 600;
}
</style>
