<script setup lang="ts">
// The set as the target of an assignment: its picture is kept, and the class's editor opens with it.
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type ClassCard } from '../api/client'
import { useCase } from '../cases/case'
import { messageOf } from '../shell/events'

/** `before` its picture is taken, edits are saved. */
const { caseId, before } = defineProps<{ caseId: string; before: () => Promise<void> }>()
const current = useCase()
const router = useRouter()
const classes = ref<ClassCard[]>([])
const busy = ref(false)
const problem = ref('')
const mine = computed(() => classes.value.filter((c) => c.seat === 'instructor' || c.seat === 'co_teacher'))
onMounted(async () => {
  // without classes there is nobody to give it to
  classes.value = await data(api.GET('/api/classes')).catch(() => [])
})
async function give(c: ClassCard) {
  busy.value = true
  problem.value = ''
  try {
    await before()
    const frame = await data(api.POST('/api/cases/{id}/set/picture', { params: { path: { id: caseId } } }))
    await router.push({ name: 'class', params: { classId: c.id }, query: { frame: frame.id, title: current.view?.title ?? 'Set', brief: current.view?.brief ?? 'everyday' } })
  } catch (e) {
    problem.value = messageOf(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <template v-if="mine.length">
    <BButton v-if="mine.length === 1 && mine[0]" size="sm" variant="secondary" :disabled="busy" data-test="give-out" :title="mine[0].name" @click="give(mine[0])">Set as an assignment</BButton>
    <BDropdown v-else size="sm" variant="secondary" text="Set as an assignment" :disabled="busy" data-test="give-out">
      <BDropdownItem v-for="c in mine" :key="c.id" data-test="give-out-to" @click="give(c)"><bdi>{{ c.name }}</bdi></BDropdownItem>
    </BDropdown>
    <span v-if="busy" role="status" class="quiet">Taking its picture…</span>
    <span v-if="problem" role="alert" class="problem">{{ problem }}</span>
  </template>
</template>
