// Proposes marks for faces: the face mesh runs in a hidden frame; here its points become marks.
import type { Mark } from '../api/client'
import { apart as between, type Point } from './kind'

/** A face as the finder sees it: points in parts of the picture's width and height. */
export type Points = [number, number, number][]

let frame: HTMLIFrameElement | undefined
let opened: Promise<Window> | undefined
let count = 0

function open(): Promise<Window> {
  opened ??= new Promise((resolve, reject) => {
    frame = document.createElement('iframe')
    frame.src = '/finder/index.html'
    frame.title = 'Face finder'
    frame.hidden = true
    const late = setTimeout(() => reject(new Error('the face finder did not start')), 20_000)
    window.addEventListener('message', function ready(e) {
      if (e.origin !== location.origin || e.source !== frame?.contentWindow || !e.data?.ready) return
      window.removeEventListener('message', ready)
      clearTimeout(late)
      // a window of another frame is no Window of this one
      const inner = frame?.contentWindow
      if (inner) resolve(inner)
      else reject(new Error('the face finder went away'))
    })
    document.body.append(frame)
  })
  return opened
}

/** Loads the face mesh before it is needed: it takes a second or two. */
export function warmUp() {
  open().then((target) => target.postMessage({ warm: true }, location.origin)).catch(() => {
    // whoever finds faces is told
  })
}

/** Faces in a picture, the largest first. */
export async function findFaces(src: string): Promise<Points[]> {
  const target = await open()
  const id = ++count
  const faces = await new Promise<Points[]>((resolve, reject) => {
    const late = setTimeout(() => reject(new Error('the face finder did not answer')), 60_000)
    window.addEventListener('message', function answer(e) {
      if (e.source !== target || e.data?.id !== id) return
      window.removeEventListener('message', answer)
      clearTimeout(late)
      if (e.data.problem) reject(new Error(e.data.problem))
      else resolve(e.data.faces)
    })
    target.postMessage({ id, src: new URL(src, location.href).href }, location.origin)
  })
  const height = (f: Points) => Math.max(...f.map((p) => p[1])) - Math.min(...f.map((p) => p[1]))
  return faces.sort((a, b) => height(b) - height(a))
}

/** Numbers of the mesh's points: landmarks, irises, lids, corners. */
const at = { noseTip: 4, noseBase: 2, mouthLeft: 61, mouthRight: 291, chin: 152 }
const eyes = [
  { side: 'left', iris: 468, lids: [159, 145], corners: [33, 133] },
  { side: 'right', iris: 473, lids: [386, 374], corners: [362, 263] },
] as const
/** Radius of an iris over the distance between two (Nishino & Nayar 2006; Dodgson 2004). */
const OF_EYES_APART = 0.0907
/** Opening over width under which an eye is closed. */
const CLOSED = 0.14

const tenth = (v: number) => Math.round(v * 10) / 10

/** Nose tip aside of the eyes' middle, over their distance, from which the head is turned about 15 degrees:
 * the mesh draws irises round, and a turned eye taken for a straight one misleads. */
const TURNED = 0.15

/** A point of the mesh in pixels of the picture; the mesh always has all of its points. */
function pixels(face: Points, i: number, width: number, height: number): Point {
  const [x, y] = face[i] ?? [0, 0, 0]
  return [x * width, y * height]
}

/** Marks for one face: its landmarks, and, if it looks about straight, each open eye whose iris is large enough to read. */
export function marksOf(face: Points, width: number, height: number, id: (kind: 'face' | 'eye', taken: string[]) => string): Mark[] {
  const px = (i: number): Point => pixels(face, i, width, height)
  const apart = (a: number, b: number) => between(px(a), px(b))
  const taken: string[] = []
  const free = (kind: 'face' | 'eye') => {
    const name = id(kind, taken)
    taken.push(name)
    return name
  }
  const out: Mark[] = [
    {
      id: free('face'),
      kind: 'face',
      points: {
        eye_image_left: px(eyes[0].iris),
        eye_image_right: px(eyes[1].iris),
        nose_tip: px(at.noseTip),
        nose_base: px(at.noseBase),
        mouth_image_left: px(at.mouthLeft),
        mouth_image_right: px(at.mouthRight),
        chin: px(at.chin),
      },
      // as far from the lens as the mesh says, in the unit of the width
      dense: face.map(([x, y, z]) => [tenth(x * width), tenth(y * height), tenth(z * width)]),
    },
  ]
  const [l, r] = [px(eyes[0].iris), px(eyes[1].iris)]
  const along = ((px(at.noseTip)[0] - (l[0] + r[0]) / 2) * (r[0] - l[0]) + (px(at.noseTip)[1] - (l[1] + r[1]) / 2) * (r[1] - l[1])) / Math.hypot(r[0] - l[0], r[1] - l[1]) ** 2
  if (Math.abs(along) > TURNED) return out
  for (const e of eyes) {
    const open = apart(e.lids[0], e.lids[1]) / Math.max(1, apart(e.corners[0], e.corners[1]))
    // the mesh draws irises a fifth too large
    const radius = OF_EYES_APART * between(l, r)
    if (open < CLOSED || radius < 4) continue
    out.push({ id: free('eye'), kind: 'eye', limbus: { centre: px(e.iris), rx: radius, ry: radius, angle_deg: 0 } })
  }
  return out
}

/** Points on the middle of the cheeks, image left and image right. */
const cheeks = [50, 280] as const

/** Where patches on the cheeks would lie; which is lit and which in shadow the server says. */
export function cheeksOf(face: Points, width: number, height: number): { centres: [Point, Point]; half_px: number } {
  const tall = (Math.max(...face.map((p) => p[1])) - Math.min(...face.map((p) => p[1]))) * height
  const at = (i: number): Point => pixels(face, i, width, height)
  return { centres: [at(cheeks[0]), at(cheeks[1])], half_px: 0.035 * tall }
}
