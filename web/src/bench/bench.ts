import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, data, type BenchAnswer, type Sum } from '../api/client'
import { messageOf } from '../shell/events'

/** Figures of the bench. A name is one figure on all sums; they stay while one goes to and fro. */
export const useBench = defineStore('bench', () => {
  const sums = shallowRef<Sum[]>([])
  const chosen = ref('path')
  const values = ref<Record<string, number>>({})
  /** Figure solved for, by sum. At first none that stands on other sums: going to and fro must not change it. */
  const solve = ref<Record<string, string | null>>({ path: 'power_stops', walk: 'second_f', sums: 'fill_f', motion: 'time_s', moved: 'lit_s', power: 'to_stops' })
  /** The light of a set whose figures are on the bench, and what goes back into it. */
  const from = ref<{ caseId: string; light: number; name: string } | null>(null)
  const back = ref<{ caseId: string; light: number; distance_m: number; face_w_m: number; face_h_m: number; exposure: { f_number: number; shutter_s: number; iso: number } } | null>(null)
  const answer = shallowRef<BenchAnswer | null>(null)
  const problem = ref('')
  const sum = computed(() => sums.value.find((s) => s.id === chosen.value) ?? null)
  let asked = 0

  async function load() {
    if (sums.value.length) return
    try {
      sums.value = await data(api.GET('/api/bench'))
      await ask()
    } catch (e) {
      problem.value = messageOf(e)
    }
  }

  async function ask(powers: Record<string, string> = {}) {
    const s = sum.value
    if (!s) return
    const mine = ++asked
    const known = Object.fromEntries(s.field.map((f) => [f.id, values.value[f.id] ?? f.usual]))
    try {
      const a = await data(api.POST('/api/bench', { body: { sum: s.id, values: known, powers, solve: solve.value[s.id] ?? null } }))
      if (mine !== asked) return
      answer.value = a
      values.value = { ...values.value, ...a.values }
      problem.value = ''
    } catch (e) {
      if (mine === asked) problem.value = messageOf(e)
    }
  }

  function put(id: string, v: number) {
    values.value = { ...values.value, [id]: v }
    void ask()
  }
  /** A power as the lamp writes it. */
  const putPower = (id: string, text: string) => ask({ [id]: text })
  function solveFor(id: string | null) {
    solve.value = { ...solve.value, [chosen.value]: id }
    void ask()
  }
  function take(light: { caseId: string; light: number; name: string }, figures: Record<string, number>) {
    from.value = light
    values.value = { ...values.value, ...figures }
    chosen.value = 'path'
    if (sums.value.length) void ask()
  }
  /** What the set takes back; the figures as they stand. */
  function giveBack(): string | null {
    const f = from.value
    if (!f) return null
    const v = (id: string) => values.value[id] ?? sums.value.flatMap((s) => s.field).find((x) => x.id === id)?.usual ?? 0
    back.value = { caseId: f.caseId, light: f.light, distance_m: v('distance_m'), face_w_m: v('face_w_m'), face_h_m: v('face_h_m'), exposure: { f_number: v('f_number'), shutter_s: v('shutter_s'), iso: v('iso') } }
    return f.caseId
  }
  watch(chosen, () => {
    answer.value = null
    void ask()
  })
  return { from, back, take, giveBack, sums, chosen, values, solve, answer, problem, sum, load, ask, put, putPower, solveFor }
})
