// One action that proposes marks: faces by the mesh in the browser, everything else by the server's image analysis.
import { api, data, type FrameView, type Mark, type Proposal } from '../api/client'
import { centreOf, freeId } from './edit'
import { apart } from './kind'
import { cheeksOf, findFaces, marksOf } from './finder'

export interface Proposed {
  add: Mark[]
  told: string
}

/** Marks for what is not marked yet in a picture of some frame, with what to tell the person. */
export async function propose(frame: FrameView, src: string, list: Mark[]): Promise<Proposed> {
  const { width, height } = frame.facts
  let trouble = ''
  const faces = await findFaces(src).catch((e: Error) => {
    trouble = ` The face finder does not run in this browser (${e.message}): mark faces by hand with F.`
    return []
  })
  const add: Mark[] = []
  const known = () => [...list, ...add]
  const put = (m: Mark) => add.push({ ...m, id: freeId(m.kind, known()) })
  const marked = (m: Mark, reach: number) => known().some((k) => k.kind === m.kind && apart(centreOf(k), centreOf(m)) < reach)

  const fresh = faces.map((f) => ({ face: f, marks: marksOf(f, width, height, (kind, taken) => freeId(kind, [...known(), ...taken.map((id) => ({ id }))])) })).filter(({ marks }) => !list.some((m) => m.kind === 'face' && marks.some((n) => n.kind === 'face' && apart(centreOf(m), centreOf(n)) < 0.05 * height)))
  const next = fresh[0]
  const found = await data(
    api.POST('/api/frames/{id}/find', {
      params: { path: { id: frame.id } },
      body: { subject: faces.length ? 'portrait' : null, cheeks: next && !list.some((m) => m.kind === 'patch') ? cheeksOf(next.face, width, height) : null },
    }),
  )
  let eyes = 0
  if (next) {
    for (const m of next.marks) {
      // an eye marked by hand stays; one seen by image analysis is drawn finer than the mesh does
      if (m.kind === 'eye') {
        if (list.some((k) => k.kind === 'eye' && apart(centreOf(k), m.limbus.centre) < 2 * m.limbus.rx)) continue
        const finer = found.find((p) => p.mark.kind === 'eye' && apart(centreOf(p.mark), m.limbus.centre) < 0.6 * m.limbus.rx)
        put(finer?.mark ?? m)
        eyes += 1
      } else put(m)
    }
    for (const p of found) if (p.mark.kind === 'patch') put(p.mark)
  } else for (const p of found) if (!marked(p.mark, 0.04 * height)) put(p.mark)

  const left = fresh.length - 1
  if (next) {
    const also = [eyes === 1 ? 'an eye' : eyes ? 'both eyes' : '', add.some((m) => m.kind === 'patch') ? 'the lit and the shadow cheek' : ''].filter(Boolean)
    const more = left > 0 ? ` ${left} more ${left > 1 ? 'faces' : 'face'} in the picture: press N again.` : ''
    const turned = eyes ? '' : ' Turned or closed eyes are not marked: mark one with E where its catchlight can be seen.'
    return { add, told: `Marked a face${also.length ? ` with ${also.join(' and ')}` : ''}: check the points and pull them into place.${turned}${more}` }
  }
  if (add.length) return { add, told: `Proposed ${words(found.filter((p) => add.some((m) => m.kind === p.mark.kind)))}: check them, and remove what is wrong.${trouble}` }
  const already = found.length || faces.length
  return { add, told: already ? 'Everything found is marked already.' : `Nothing found. Mark a face with F, an eye with E, a ball with B: marks by hand count as much.${trouble}` }
}

function words(found: Proposal[]): string {
  const first = found.slice(0, 3).map((p) => (p.mark.kind === 'patch' ? `a ${p.mark.role} patch` : `${p.mark.id.replace('-', ' ')} (${p.why}; ${Math.round(100 * p.probability)} %)`))
  return first.join(', ') + (found.length > 3 ? ` and ${found.length - 3} more` : '')
}
