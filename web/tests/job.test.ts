// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import { FakeServer } from './fakes/server'

const server = vi.hoisted(() => ({ it: null as unknown as FakeServer }))
vi.mock('../src/api/client', async (original) => {
  const { FakeServer } = await import('./fakes/server')
  server.it = new FakeServer()
  return { ...(await original<object>()), api: server.it.api }
})
const { useJob } = await import('../src/shell/job')

const view = (state: string, more: object = {}) => ({ id: 'j', state, share: 0, problem: null, ...more })
function used() {
  let job!: ReturnType<typeof useJob>
  const page = mount(
    defineComponent({
      setup() {
        job = useJob()
        return () => h('div')
      },
    }),
  )
  return { job, page }
}
const ASKED = { kind: 'report' } as never

describe('a job that is done beside everything else', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    server.it.reset()
  })
  afterEach(() => void vi.useRealTimers())

  it('is followed until it is done, and then left alone', async () => {
    const states = ['waiting', 'running', 'running', 'done']
    server.it.on('POST /api/jobs', () => view('waiting')).on('GET /api/jobs/{id}', () => view(states.shift() ?? 'done'))
    const { job } = used()
    await job.ask(ASKED)
    expect(job.open.value).toBe(true)
    await vi.advanceTimersByTimeAsync(2000)
    expect(job.job.value?.state).toBe('running')
    await vi.advanceTimersByTimeAsync(5000)
    expect(job.job.value?.state).toBe('done')
    expect(job.open.value).toBe(false)
    const asked = server.it.calls('GET /api/jobs/{id}').length
    expect(asked).toBe(4)
    await vi.advanceTimersByTimeAsync(20_000)
    expect(server.it.calls('GET /api/jobs/{id}').length).toBe(asked)
  })

  it('says why it failed', async () => {
    server.it.on('POST /api/jobs', () => view('waiting')).on('GET /api/jobs/{id}', () => view('failed', { problem: 'The picture was deleted.' }))
    const { job } = used()
    await job.ask(ASKED)
    expect(job.problem.value).toBe('The picture was deleted.')
    expect(job.open.value).toBe(false)
  })

  it('says why it was not taken, and forgets that at the next try', async () => {
    server.it.on('POST /api/jobs', () => {
      throw new Error('Too many jobs wait already.')
    })
    const { job } = used()
    await job.ask(ASKED)
    expect(job.problem.value).toBe('Too many jobs wait already.')
    server.it.on('POST /api/jobs', () => view('waiting')).on('GET /api/jobs/{id}', () => view('done'))
    await job.ask(ASKED)
    expect(job.problem.value).toBe('')
  })

  it('goes on being followed when one look fails', async () => {
    let looks = 0
    server.it.on('POST /api/jobs', () => view('waiting')).on('GET /api/jobs/{id}', () => {
      looks += 1
      if (looks === 2) throw new Error('The server cannot be reached.')
      return view(looks > 3 ? 'done' : 'running')
    })
    const { job } = used()
    await job.ask(ASKED)
    await vi.advanceTimersByTimeAsync(900)
    expect(job.problem.value).toContain('reached')
    await vi.advanceTimersByTimeAsync(5000)
    expect(job.job.value?.state).toBe('done')
    expect(job.problem.value).toBe('')
  })

  it('is withdrawn, and not followed any more', async () => {
    server.it
      .on('POST /api/jobs', () => view('waiting'))
      .on('GET /api/jobs/{id}', () => view('running'))
      .on('DELETE /api/jobs/{id}', () => view('withdrawn'))
    const { job } = used()
    await job.ask(ASKED)
    await job.withdraw()
    expect(job.job.value?.state).toBe('withdrawn')
    const asked = server.it.asked.length
    await vi.advanceTimersByTimeAsync(10_000)
    expect(server.it.asked.length).toBe(asked)
  })

  it('is not followed from a page that was left', async () => {
    server.it.on('POST /api/jobs', () => view('waiting')).on('GET /api/jobs/{id}', () => view('running'))
    const { job, page } = used()
    await job.ask(ASKED)
    page.unmount()
    const asked = server.it.asked.length
    await vi.advanceTimersByTimeAsync(10_000)
    expect(server.it.asked.length).toBe(asked)
  })
})
