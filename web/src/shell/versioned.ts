import { ref, type Ref } from 'vue'
import { data } from '../api/client'
import { currentOf } from './kept'
import { messageOf } from './events'

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
      problem.value = messageOf(e)
      state.value = 'Not saved'
      view.value = currentOf<T>(e) ?? view.value
      return false
    }
  }
  return { state, save }
}
