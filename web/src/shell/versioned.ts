import { ref, type Ref } from 'vue'
import { ApiProblem, data } from '../api/client'

/** A document kept version by version: saving takes the answer, or, after a stale edit, the newer version with the sentence why. */
export function useVersioned<T>(view: Ref<T | null>, problem: Ref<string>) {
  const state = ref('Saved')
  async function save(call: Promise<{ data?: T }>): Promise<boolean> {
    state.value = 'Saving…'
    try {
      view.value = await data(call)
      problem.value = ''
      state.value = 'Saved'
      return true
    } catch (e) {
      problem.value = (e as Error).message
      state.value = 'Not saved'
      if (e instanceof ApiProblem && e.status === 409) view.value = e.problem.current as T
      return false
    }
  }
  return { state, save }
}
