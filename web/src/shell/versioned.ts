import { ref, type Ref } from 'vue'
import { data } from '../api/client'
import { currentOf } from './kept'
import { messageOf } from './events'

/**
 * A document kept version by version, changed by one answer at a time: a change waits for the one before and is made on what that one left,
 * so that two in quick succession do not refuse each other. After a stale edit the newer version is shown with the sentence why.
 */
export function useVersioned<T>(view: Ref<T | null>, problem: Ref<string>) {
  const state = ref('Saved')
  let last: Promise<unknown> = Promise.resolve()
  async function send(call: (now: T) => Promise<{ data?: T }>): Promise<boolean> {
    if (view.value === null) return false
    state.value = 'Saving…'
    try {
      view.value = await data(call(view.value))
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
  /** Sends what the call makes of the document as it is when its turn comes; false when it was refused or nothing is loaded. */
  function save(call: (now: T) => Promise<{ data?: T }>): Promise<boolean> {
    const mine = last.then(() => send(call))
    last = mine
    return mine
  }
  return { state, save }
}
