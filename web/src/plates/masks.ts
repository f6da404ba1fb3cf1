// Masks of a desk while they are painted: which one, with what brush, and the painters that draw them at once. The server draws them for
// the record.
import { computed, reactive, ref, shallowRef } from 'vue'
import type { Desk, DeskPlate, MaskStroke, PlateMask } from '../api/client'
import { greyOf, Painter } from './mask'

const BRUSH = { least: 0.005, most: 0.25 }

export function useMasks(on: {
  caseId: () => string
  desk: () => Desk
  put: (k: number, change: Partial<DeskPlate>) => void
  /** What a plate counts by has changed. */
  lay: (k: number, painter: Painter) => void
}) {
  const plates = () => on.desk().plates ?? []
  const maskOf = (k: number): PlateMask | null => plates()[k]?.mask ?? null
  let full: [number, number] = [1, 1]
  /** The frame of the plate whose mask is painted: plates change places. */
  const frame = ref<string | null>(null)
  const painting = computed(() => plates().findIndex((p) => p.frame === frame.value))
  const painter = shallowRef<Painter | null>(null)
  const painted = computed(() => (painter.value ? plates()[painting.value] : undefined))
  const brush = reactive({ radius: 0.05, soft: 0.5, adds: false })
  /** What decides where a plate is the lightest, and what it was when the masks were drawn. */
  const levels = () => JSON.stringify(plates().map((p) => [p.frame, p.stops, p.mired, p.mute, p.solo]))
  let drawnFor = ''

  /** What a mask is before anything is painted, where only the server knows. */
  async function groundOf(k: number) {
    const mask = maskOf(k)
    if (mask?.ground !== 'lightest') return null
    const own = { ground: mask.ground, strokes: [] }
    const body = { ...on.desk(), plates: plates().map((p, i) => ({ ...p, mask: i === k ? own : null })) }
    const answer = await fetch(`/api/cases/${on.caseId()}/plates/mask/${plates()[k]?.frame}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
    return answer.ok ? greyOf(await answer.blob()) : null
  }
  /** A painter of a plate's mask as it now is, whatever was painted while the server was asked. */
  async function painterOf(k: number): Promise<Painter> {
    for (;;) {
      const asked = maskOf(k)?.ground
      const ground = await groundOf(k)
      if (maskOf(k)?.ground === asked) return new Painter(full, maskOf(k), ground)
    }
  }
  async function draw(k: number) {
    const made = await painterOf(k)
    if (k === painting.value) painter.value = made
    on.lay(k, made)
  }
  /** All masks anew, on pictures of so many dots. */
  async function all(size = full) {
    full = size
    drawnFor = levels()
    for (const [k, p] of plates().entries()) if (p.mask) await draw(k)
    if (!maskOf(painting.value)) done()
  }
  /** Those that count where their plate is the lightest, where levels have changed since. */
  async function follow() {
    if (levels() === drawnFor) return
    drawnFor = levels()
    for (const [k, p] of plates().entries()) if (p.mask?.ground === 'lightest') await draw(k)
  }
  async function paint(k: number) {
    if (!maskOf(k)) on.put(k, { mask: { ground: 'all', strokes: [] } })
    frame.value = plates()[k]?.frame ?? null
    await draw(k)
  }
  function change(to: Partial<PlateMask>) {
    const mask = maskOf(painting.value)
    if (mask) on.put(painting.value, { mask: { ...mask, ...to } })
  }
  const stroke = (one: MaskStroke) => change({ strokes: [...(maskOf(painting.value)?.strokes ?? []), one] })
  async function ground(to: PlateMask['ground']) {
    change({ ground: to })
    if (painting.value >= 0) await draw(painting.value)
  }
  function without() {
    const k = painting.value
    if (k < 0) return
    on.put(k, { mask: null })
    on.lay(k, new Painter(full, null))
    done()
  }
  function done() {
    frame.value = painter.value = null
  }
  const resize = (by: -1 | 1) => (brush.radius = Math.min(BRUSH.most, Math.max(BRUSH.least, Math.round(1000 * brush.radius * (by > 0 ? 1.25 : 0.8)) / 1000)))
  return { painter, painted, painting, brush, all, follow, paint, stroke, ground, without, done, resize }
}
