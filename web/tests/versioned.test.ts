import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { useVersioned } from '../src/shell/versioned'

interface Log { version: number; done: string[] }

/** A server that refuses what was made on another version than its own, after a while. */
function server() {
  let kept: Log = { version: 1, done: [] }
  const put = async (version: number, done: string[]): Promise<{ data?: Log }> => {
    await new Promise((r) => setTimeout(r, 5))
    if (version !== kept.version) throw new Error('Someone saved before.')
    kept = { version: version + 1, done }
    return { data: kept }
  }
  return { put, now: () => kept }
}

describe('documents kept version by version', () => {
  it('two changes in quick succession are both kept', async () => {
    const s = server()
    const view = ref<Log | null>(s.now())
    const problem = ref('')
    const { save, state } = useVersioned(view, problem)
    const add = (what: string) => save((now) => s.put(now.version, [...now.done, what]))
    expect(await Promise.all([add('a'), add('b'), add('c')])).toEqual([true, true, true])
    expect(s.now()).toEqual({ version: 4, done: ['a', 'b', 'c'] })
    expect([view.value, problem.value, state.value]).toEqual([s.now(), '', 'Saved'])
  })

  it('a refusal is told and does not hold up the next', async () => {
    const s = server()
    const view = ref<Log | null>(s.now())
    const problem = ref('')
    const { save, state } = useVersioned(view, problem)
    expect(await save((now) => s.put(now.version + 7, ['x']))).toBe(false)
    expect([problem.value, state.value]).toEqual(['Someone saved before.', 'Not saved'])
    expect(await save((now) => s.put(now.version, ['y']))).toBe(true)
    expect([s.now().done, problem.value]).toEqual([['y'], ''])
  })

  it('nothing is sent before something is loaded', async () => {
    const s = server()
    const { save } = useVersioned(ref<Log | null>(null), ref(''))
    expect(await save((now) => s.put(now.version, ['x']))).toBe(false)
    expect(s.now().version).toBe(1)
  })
})
