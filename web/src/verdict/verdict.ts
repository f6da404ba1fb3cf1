// The verdict that is open: findings, what to change first as it comes in, what people say.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, ApiProblem, data, mendings, type BriefView, type Finding, type Mend, type MendingLine, type RemarkEdit, type RemarkView, type Verdict } from '../api/client'
import { messageOf } from '../shell/events'
import { byGain } from './order'

/** Pictures of the first change, as sources. */
export interface Drawn {
  before: string
  after: string
  relit: string
}
const NONE: Drawn = { before: '', after: '', relit: '' }
const source = (base64: string) => `data:image/jpeg;base64,${base64}`

export const useVerdict = defineStore('verdict', () => {
  const verdict = shallowRef<Verdict | null>(null)
  const briefs = shallowRef<BriefView[]>([])
  const mends = shallowRef<Mend[]>([])
  const drawn = ref<Drawn>({ ...NONE })
  const working = ref(false)
  const problem = ref('')
  const remarks = shallowRef<RemarkView[]>([])
  /** The rule or remark that is pointed at. */
  const here = ref<string | null>(null)
  let frame = ''
  let asked: AbortController | null = null

  const path = () => ({ params: { path: { id: frame } } })

  /** Loads the verdict on a picture, then what to change first. */
  async function load(id: string) {
    asked?.abort()
    frame = id
    mends.value = []
    drawn.value = { ...NONE }
    try {
      const [v, b, r] = await Promise.all([data(api.GET('/api/frames/{id}/verdict', path())), data(api.GET('/api/briefs')), data(api.GET('/api/frames/{id}/remarks', path()))])
      if (frame !== id) return
      verdict.value = v
      briefs.value = b
      remarks.value = r
      problem.value = ''
    } catch (e) {
      if (frame === id) problem.value = messageOf(e)
      return
    }
    void follow(id)
  }
  /** What to change first, as it is worked out. */
  async function follow(id: string) {
    const mine = new AbortController()
    asked = mine
    working.value = true
    try {
      await mendings(id, mine.signal, (line) => {
        if (!mine.signal.aborted) take(line)
      })
    } catch (e) {
      // the findings stand; only what to change first is missing
      if (!mine.signal.aborted) problem.value = e instanceof ApiProblem ? messageOf(e) : 'What to change first was not worked out to the end: the connection broke off. Open the page again.'
    }
    if (asked === mine) working.value = false
  }
  function take(line: MendingLine) {
    if (line.mend) mends.value = [...mends.value, line.mend]
    if (line.jpeg) drawn.value.after = source(line.jpeg)
    if (line.before) drawn.value.before = source(line.before)
    if (line.relit) drawn.value.relit = source(line.relit)
    if (line.problem) problem.value = line.problem
  }
  function leave() {
    asked?.abort()
    working.value = false
  }

  /** Findings numbered as the server has them, those to change in the order of what was worked out. */
  const findings = computed(() => (verdict.value?.findings ?? []).map((f, i) => ({ ...f, n: i + 1 })))
  const of = (outcome: Finding['outcome']) => findings.value.filter((f) => f.outcome === outcome)
  const faults = computed(() => byGain(of('fault'), mends.value))
  const chosen = computed(() => briefs.value.find((b) => b.id === verdict.value?.brief))

  async function say(remark: RemarkEdit) {
    remarks.value = await data(api.POST('/api/frames/{id}/remarks', { ...path(), body: remark }))
  }
  async function resay(id: string, remark: RemarkEdit) {
    remarks.value = await data(api.PUT('/api/frames/{id}/remarks/{remark}', { params: { path: { id: frame, remark: id } }, body: remark }))
  }
  async function unsay(id: string) {
    remarks.value = await data(api.DELETE('/api/frames/{id}/remarks/{remark}', { params: { path: { id: frame, remark: id } } }))
  }
  /** My stance on a finding. */
  const stance = (rule: string) => remarks.value.find((r) => r.mine && r.rule === rule && r.stance !== 'note')
  /** Agrees or disagrees; the same again takes it back. */
  async function judge(rule: string, as: 'agrees' | 'disagrees') {
    const now = stance(rule)
    if (now?.stance === as) await unsay(now.id)
    else await say({ stance: as, rule, text: now?.text ?? '' })
  }

  return { verdict, briefs, mends, drawn, working, problem, remarks, here, findings, faults, chosen, of, load, leave, say, resay, unsay, stance, judge }
})
