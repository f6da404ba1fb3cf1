import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { FrameView, Mark } from '../src/api/client'
import type { FakeServer } from './fakes/server'

const held = vi.hoisted(() => ({ server: null as unknown as FakeServer, faces: [] as unknown[], broken: '' }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  held.server = new FakeServer()
  return { ...(await original<object>()), api: held.server.api }
})
// the mesh runs in a browser only: a face is told here by its marks
vi.mock('../src/read/finder', () => ({
  findFaces: async () => {
    if (held.broken) throw new Error(held.broken)
    return held.faces
  },
  marksOf: (f: Mark[], _w: number, _h: number, id: (kind: 'face' | 'eye', taken: string[]) => string) => {
    const taken: string[] = []
    return f.map((m) => {
      const name = id(m.kind as 'face' | 'eye', taken)
      taken.push(name)
      return { ...m, id: name }
    })
  },
  cheeksOf: () => ({ centres: [[1, 2], [3, 4]], half_px: 5 }),
}))
const { propose } = await import('../src/read/propose')

const frame = { id: 'f', facts: { width: 1000, height: 1000 } } as unknown as FrameView
const FIND = 'POST /api/frames/{id}/find'
const faceAt = (x: number, id = ''): Mark =>
  ({ id, kind: 'face', points: { eye_image_left: [x - 40, 100], eye_image_right: [x + 40, 100], nose_tip: [x, 150], nose_base: [x, 165], mouth_image_left: [x - 30, 190], mouth_image_right: [x + 30, 190], chin: [x, 240] } }) as Mark
const eyeAt = (x: number, rx = 8, id = ''): Mark => ({ id, kind: 'eye', limbus: { centre: [x, 100], rx, ry: rx, angle_deg: 0 } }) as Mark
const ballAt = (x: number, id = ''): Mark => ({ id, kind: 'ball', finish: 'matte', centre: [x, 500], radius_px: 60 }) as Mark
const patch = (role: string): Mark => ({ id: '', kind: 'patch', role, polygon: [[0, 0], [9, 0], [9, 9]] }) as Mark
const found = (mark: Mark, probability = 0.8) => ({ mark: { ...mark, id: `${mark.kind}-1` }, probability, why: 'round and even' })
const put = (list: Mark[]) => propose(frame, 'picture', list)

describe('marks that are proposed', () => {
  beforeEach(() => {
    held.server.reset()
    held.server.on(FIND, () => [])
    held.faces = []
    held.broken = ''
  })

  it('are a face with its eyes and cheeks, in one press', async () => {
    held.faces = [[faceAt(300), eyeAt(260), eyeAt(340)]]
    held.server.on(FIND, () => [found(patch('lit')), found(patch('shadow'))])
    const { add, told } = await put([])
    expect(add.map((m) => m.kind)).toEqual(['face', 'eye', 'eye', 'patch', 'patch'])
    expect(new Set(add.map((m) => m.id)).size).toBe(5)
    expect(told).toContain('a face with both eyes and the lit and the shadow cheek')
    expect(held.server.asked[0]?.body).toMatchObject({ subject: 'portrait', cheeks: { half_px: 5 } })
  })

  it('asks for no cheeks where a patch is marked already', async () => {
    held.faces = [[faceAt(300)]]
    const { told } = await put([{ ...patch('lit'), id: 'patch-1' }])
    expect(held.server.asked[0]?.body).toMatchObject({ cheeks: null })
    expect(told).toContain('Turned or closed eyes are not marked')
  })

  it('take the finer outline of an eye where image analysis has one', async () => {
    held.faces = [[faceAt(300), eyeAt(260, 8)]]
    held.server.on(FIND, () => [found(eyeAt(262, 9.3)), found(eyeAt(700, 20))])
    const { add, told } = await put([])
    const eyes = add.filter((m) => m.kind === 'eye')
    expect(eyes.length).toBe(1)
    expect(eyes[0]?.kind === 'eye' && eyes[0].limbus.rx).toBe(9.3)
    expect(told).toContain('with an eye')
  })

  it('leave an eye alone that was marked by hand', async () => {
    held.faces = [[faceAt(300), eyeAt(260), eyeAt(340)]]
    const { add } = await put([eyeAt(263, 10, 'eye-1')])
    expect(add.map((m) => m.id)).toEqual(['face-1', 'eye-2'])
    expect(add[1]?.kind === 'eye' && add[1].limbus.centre[0]).toBe(340)
  })

  it('are the next face at the next press, and say how many are left', async () => {
    held.faces = [[faceAt(300)], [faceAt(600)], [faceAt(850)]]
    const first = await put([])
    expect(first.told).toContain('2 more faces in the picture')
    const second = await put(first.add)
    expect(second.told).toContain('1 more face in')
    expect(second.add[0]?.kind === 'face' && second.add[0].points.nose_tip[0]).toBe(600)
    const third = await put([...first.add, ...second.add])
    expect(third.told).not.toContain('more face')
    const none = await put([...first.add, ...second.add, ...third.add])
    expect(none.add).toEqual([])
    expect(none.told).toBe('Everything found is marked already.')
  })

  it('are what stands in the picture where there is no face, with the reason and how likely it is', async () => {
    held.server.on(FIND, () => [found(ballAt(200), 0.93), found(ballAt(700), 0.61)])
    const { add, told } = await put([])
    expect(add.map((m) => m.id)).toEqual(['ball-1', 'ball-2'])
    expect(told).toContain('93 %')
    expect(told).toContain('check them')
    expect(held.server.asked[0]?.body).toMatchObject({ subject: null })
  })

  it('leave out what is marked already, but not another of its kind', async () => {
    held.server.on(FIND, () => [found(ballAt(200)), found(ballAt(700))])
    const { add } = await put([ballAt(215, 'ball-1')])
    expect(add.map((m) => m.id)).toEqual(['ball-2'])
    expect(add[0]?.kind === 'ball' && add[0].centre[0]).toBe(700)
  })

  it('name three, and count the rest', async () => {
    held.server.on(FIND, () => [100, 300, 500, 700, 900].map((x) => found(ballAt(x))))
    expect((await put([])).told).toContain('and 2 more')
  })

  it('say that nothing was found, and what to do by hand', async () => {
    const { add, told } = await put([])
    expect(add).toEqual([])
    expect(told).toContain('Nothing found')
    expect(told).toContain('F')
  })

  it('go on without the face finder, and say why it is missing', async () => {
    held.broken = 'no WebAssembly here'
    held.server.on(FIND, () => [found(ballAt(200))])
    const { add, told } = await put([])
    expect(add.length).toBe(1)
    expect(told).toContain('no WebAssembly here')
    held.server.on(FIND, () => [])
    expect((await put([])).told).toContain('no WebAssembly here')
  })
})
