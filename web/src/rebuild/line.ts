// A bright line on a product: where it is wanted, pulled about on the picture, and what the core says gives it.
import { computed, ref, shallowRef, type Ref } from 'vue'
import { api, data, type LightSet, type LinePlan, type LineWanted, type ShownRow } from '../api/client'
import { messageOf } from '../shell/events'

/** A place on the product: shares of its half width and half height from its middle. */
export interface OnProduct {
  across: number
  up: number
}
export type LineGrip = 'left' | 'right' | 'bottom' | 'top' | 'whole' | 'fade'

const MOST = 0.985
const THINNEST = 0.02
const SHORTEST = 0.05
const LEAST_FADE = 0.1
/** A line that is drawn by one stroke is so wide. */
const STROKE = 0.08
const between = (v: number, lo: number, hi: number) => Math.max(lo, Math.min(hi, v))

/** Where on the product a place of the picture lies; places beside it count as its edge. */
export function onProduct(rows: ShownRow[], [x, y]: [number, number]): OnProduct | null {
  const height = (r: ShownRow) => (r.left[1] + r.right[1]) / 2
  const [first] = rows
  const last = rows.at(-1)
  if (!first || !last) return null
  // from the foot up y falls
  const k = rows.findIndex((r) => height(r) <= y)
  const [a, b] = k === 0 ? [first, first] : k < 0 ? [last, last] : [rows[k - 1] ?? first, rows[k] ?? last]
  const span = height(b) - height(a)
  const t = span === 0 ? 0 : (y - height(a)) / span
  const mix = (f: (r: ShownRow) => number) => f(a) + (f(b) - f(a)) * t
  const [left, right, across] = [mix((r) => r.left[0]), mix((r) => r.right[0]), mix((r) => r.across)]
  const share = right > left ? (2 * (x - left)) / (right - left) - 1 : 0
  return { across: across * between(share, -1, 1), up: mix((r) => r.up) }
}

/** Where a place of the product shows, shares of the picture: [`onProduct`] the other way. */
export function inPicture(rows: ShownRow[], { across, up }: OnProduct): [number, number] {
  const k = rows.findIndex((r) => r.up >= up)
  const b = rows[Math.max(k, 1)] ?? rows.at(-1)
  const a = rows[Math.max(k, 1) - 1] ?? b
  if (!a || !b) return [0, 0]
  const t = b.up > a.up ? (up - a.up) / (b.up - a.up) : 0
  const mix = (p: number, q: number, share: number) => p + (q - p) * share
  const s = (across / Math.max(mix(a.across, b.across, t), 1e-6) + 1) / 2
  const along = (i: 0 | 1) => mix(mix(a.left[i], b.left[i], t), mix(a.right[i], b.right[i], t), s)
  return [along(0), along(1)]
}

/** Where across a line begins to fade to one of its edges; nothing where it does not. */
export function fadesFrom({ from, to, fade }: LineWanted): number | null {
  if (!fade || fade.side === 'both') return null
  const wide = fade.share * (to - from)
  return fade.side === 'right' ? to - wide : from + wide
}

/** The line after one of its grips was pulled to a place; it keeps a width and a height. */
export function pulled(line: LineWanted, grip: LineGrip, to: OnProduct, start?: { line: LineWanted; at: OnProduct }): LineWanted {
  if (grip === 'left') return { ...line, from: between(to.across, -MOST, line.to - THINNEST) }
  if (grip === 'right') return { ...line, to: between(to.across, line.from + THINNEST, MOST) }
  if (grip === 'bottom') return { ...line, bottom: between(to.up, -MOST, line.top - SHORTEST) }
  if (grip === 'top') return { ...line, top: between(to.up, line.bottom + SHORTEST, MOST) }
  if (grip === 'fade') {
    if (!line.fade || line.fade.side === 'both') return line
    const edge = line.fade.side === 'right' ? line.to - to.across : to.across - line.from
    return { ...line, fade: { ...line.fade, share: between(edge / (line.to - line.from), LEAST_FADE, 1) } }
  }
  const was = start?.line ?? line
  const by = { across: to.across - (start?.at.across ?? to.across), up: to.up - (start?.at.up ?? to.up) }
  const aside = between(by.across, -MOST - was.from, MOST - was.to)
  const high = between(by.up, -MOST - was.bottom, MOST - was.top)
  return { ...line, from: was.from + aside, to: was.to + aside, bottom: was.bottom + high, top: was.top + high }
}

/** A line drawn by a stroke from one place to another: a stroke straight up or down has a usual width. */
export function stroke(line: LineWanted, a: OnProduct, b: OnProduct): LineWanted {
  let [from, to] = [Math.min(a.across, b.across), Math.max(a.across, b.across)]
  if (to - from < STROKE) {
    const middle = between((from + to) / 2, -MOST + STROKE / 2, MOST - STROKE / 2)
    ;[from, to] = [middle - STROKE / 2, middle + STROKE / 2]
  }
  const top = Math.max(a.up, b.up)
  const bottom = Math.min(a.up, b.up, top - SHORTEST)
  return { ...line, from: between(from, -MOST, MOST), to: between(to, -MOST, MOST), bottom: between(bottom, -MOST, MOST), top: between(top, -MOST, MOST) }
}

const BOXES = ['tin', 'carton']
const GLOSSY = ['bottle', 'can', 'ball_mirror', ...BOXES]

/** The line of a set that is being drawn, and its plan; while one is asked for, only the newest is asked next. */
export function useLine(set: Ref<LightSet | null>, caseId: Ref<string>) {
  const subject = computed(() => set.value?.subjects.findIndex((s) => GLOSSY.includes(s.kind)) ?? -1)
  const isBox = computed(() => BOXES.includes(set.value?.subjects[subject.value]?.kind ?? ''))
  const wanted = ref<LineWanted>({ subject: 0, from: -0.8, to: -0.7, bottom: -0.7, top: 0.3, side: 'front', fade: null })
  const plan = shallowRef<LinePlan | null>(null)
  const problem = ref('')
  const drawing = ref(false)
  let asking = false
  let again = false
  async function find() {
    if (!set.value || subject.value < 0 || !drawing.value) return
    if (asking) {
      again = true
      return
    }
    asking = true
    try {
      do {
        again = false
        const line = { ...wanted.value, subject: subject.value }
        plan.value = await data(api.POST('/api/cases/{id}/set/line', { params: { path: { id: caseId.value } }, body: { set: set.value, line } }))
        problem.value = ''
      } while (again)
    } catch (e) {
      problem.value = messageOf(e)
    } finally {
      asking = false
    }
  }
  function edit(line: LineWanted) {
    wanted.value = line
    void find()
  }
  function draw(on: boolean) {
    drawing.value = on
    if (on) {
      // on a flat side or a ball a line in the middle, on a round thing one near its edge
      const kind = set.value?.subjects[subject.value]?.kind
      if (!plan.value && (BOXES.includes(kind ?? '') || kind === 'ball_mirror')) wanted.value = { ...wanted.value, from: -0.5, to: 0.5, bottom: -0.5, top: 0.5 }
      void find()
    } else plan.value = null
  }
  return { subject, isBox, wanted, plan, problem, drawing, find, edit, draw }
}
