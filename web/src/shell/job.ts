import { computed, onBeforeUnmount, ref } from 'vue'
import { api, data, type JobView, type Task } from '../api/client'
import { messageOf } from './events'

const LOOK_EVERY_MS = 800

/** A job that is done beside everything else: asked for, followed, withdrawn. */
export function useJob() {
  const job = ref<JobView | null>(null)
  const problem = ref('')
  const open = computed(() => job.value?.state === 'waiting' || job.value?.state === 'running')
  let timer: ReturnType<typeof setTimeout> | undefined

  async function follow() {
    const id = job.value?.id
    if (!id) return
    try {
      job.value = await data(api.GET('/api/jobs/{id}', { params: { path: { id } } }))
      problem.value = job.value.problem ?? ''
    } catch (e) {
      problem.value = messageOf(e)
    }
    if (open.value) timer = setTimeout(() => void follow(), LOOK_EVERY_MS)
  }
  async function ask(body: Task) {
    problem.value = ''
    try {
      job.value = await data(api.POST('/api/jobs', { body }))
      await follow()
    } catch (e) {
      problem.value = messageOf(e)
    }
  }
  async function withdraw() {
    clearTimeout(timer)
    const id = job.value?.id
    if (id) job.value = await data(api.DELETE('/api/jobs/{id}', { params: { path: { id } } }))
  }
  onBeforeUnmount(() => clearTimeout(timer))
  return { job, open, problem, ask, withdraw }
}
