import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api, ApiProblem, data, type Person } from '../api/client'

/** Who is signed in: `undefined` before the first answer, `null` for nobody. */
export const useSession = defineStore('session', () => {
  const person = ref<Person | null | undefined>(undefined)

  async function ask() {
    try {
      person.value = (await data(api.GET('/api/session'))) ?? null
    } catch (e) {
      if (!(e instanceof ApiProblem)) throw e
      person.value = null
    }
  }
  async function signIn(email: string, password: string) {
    person.value = await data(api.POST('/api/session', { body: { email, password } }))
  }
  async function signUp(name: string, email: string, password: string, invitation: string) {
    person.value = await data(api.POST('/api/accounts', { body: { name, email, password, invitation: invitation || null } }))
  }
  async function signOut() {
    await api.DELETE('/api/session')
    person.value = null
  }
  return { person, ask, signIn, signUp, signOut }
})
