import { RequestProblem, type Board } from '@/api/client'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, ref, shallowRef, type ShallowRef } from 'vue'
import { useEditing } from './useEditing'

interface View {
  revision: number
  board: Board
}

/** A service in memory: it refuses titles with an exclamation mark, and revisions that are old. */
const service = vi.hoisted(() => ({ view: null as unknown as ShallowRef<View>, stored: null as unknown as View, saves: [] as string[], away: false }))

vi.mock('@/api/queries', () => ({
  useBoard: () => ({
    data: service.view, isPending: ref(false), error: ref(null),
    refetch: () => Promise.resolve((service.view.value = service.stored)),
  }),
  useSaveBoard: () => ({
    mutateAsync: async ({ revision, board, what }: View & { what: string }) => {
      await Promise.resolve()
      if (service.away) throw new RequestProblem(0, { message: 'Verdad does not answer.' })
      if (revision !== service.stored.revision) throw new RequestProblem(409, { message: 'changed in another window' })
      if (board.purpose.includes('!')) throw new RequestProblem(422, { message: 'no shouting' })
      service.saves.push(what)
      service.stored = { revision: revision + 1, board }
      service.view.value = service.stored
    },
  }),
}))

const add = (letter: string) => (board: Board) => ({ ...board, purpose: board.purpose + letter })
function open() {
  const editing = effectScope().run(() => useEditing('one'))
  if (!editing) throw new Error('the scope has ended')
  return editing
}

describe('editing', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    vi.spyOn(console, 'warn').mockImplementation(() => undefined)
    service.stored = { revision: 1, board: { title: 't', purpose: '', circuits: [], spreads: [], studies: [], limits: [] } as unknown as Board }
    service.view = shallowRef(service.stored)
    service.saves = []
  })

  it('shows an edit at once, saves it behind, and counts it once', async () => {
    const editing = open()
    const seen: string[] = []
    const done = editing.edit(add('a'), 'first')
    seen.push(editing.board.value?.purpose ?? '')
    expect(editing.saving.value).toBe(true)
    await done
    expect([...seen, editing.board.value?.purpose]).toEqual(['a', 'a'])
    expect(editing.saving.value).toBe(false)
    expect(service.stored.board.purpose).toBe('a')
  })

  it('sends waiting edits together, and takes out the one that is refused', async () => {
    const editing = open()
    const all = [editing.edit(add('a'), 'a'), editing.edit(add('b'), 'b'), editing.edit(add('!'), 'c'), editing.edit(add('d'), 'd')]
    const outcomes = await Promise.allSettled(all)
    expect(outcomes.map(({ status }) => status)).toEqual(['fulfilled', 'fulfilled', 'rejected', 'fulfilled'])
    expect(service.stored.board.purpose).toBe('abd')
    expect(editing.board.value?.purpose).toBe('abd')
  })

  it('goes back and forth, and says what it goes back over', async () => {
    const editing = open()
    await editing.edit(add('a'), 'a added')
    expect(editing.undoing.value).toBe('a added')
    await editing.undo()
    expect(service.stored.board.purpose).toBe('')
    await editing.redo()
    expect(service.stored.board.purpose).toBe('a')
    expect(service.saves).toEqual(['a added', 'undone: a added', 'done again: a added'])
  })

  it('takes back its own edit and leaves what another window did since', async () => {
    const editing = open()
    await editing.edit(add('a'), 'a added')
    service.view.value = service.stored = { revision: 9, board: { ...service.stored.board, title: 'theirs' } }
    await editing.undo()
    expect([service.stored.board.purpose, service.stored.board.title]).toEqual(['', 'theirs'])
    await editing.redo()
    expect([service.stored.board.purpose, service.stored.board.title]).toEqual(['a', 'theirs'])
    service.view.value = service.stored = { revision: 19, board: { ...service.stored.board, purpose: 'theirs' } }
    await expect(editing.undo()).rejects.toThrow('purpose was changed in another window')
    expect(service.stored.board.purpose).toBe('theirs')
    expect(editing.canUndo.value).toBe(false)
  })

  it('keeps what waits while the service does not answer', async () => {
    vi.useFakeTimers()
    const editing = open()
    service.away = true
    const done = editing.edit(add('a'), 'a')
    await vi.advanceTimersByTimeAsync(5000)
    expect(editing.trouble.value).toContain('does not answer')
    expect(editing.board.value?.purpose).toBe('a')
    service.away = false
    await vi.advanceTimersByTimeAsync(2500)
    await done
    expect(service.stored.board.purpose).toBe('a')
    expect(editing.trouble.value).toBe('')
    vi.useRealTimers()
  })

  it('saves nothing where nothing changes, and forgets what was refused', async () => {
    const editing = open()
    await editing.edit((board) => ({ ...board }), 'nothing')
    await editing.edit(add('!'), 'refused').catch(() => undefined)
    expect(service.saves).toEqual([])
    expect(editing.canUndo.value).toBe(false)
  })

  it.each([[true, 'ab'], [false, 'theirs']])('asks before it overwrites another window (mine: %s)', async (mine, purpose) => {
    const editing = open()
    await editing.edit(add('a'), 'a')
    service.stored = { revision: 9, board: { ...service.stored.board, purpose: 'theirs' } }
    const waiting = editing.edit(add('b'), 'b')
    await vi.waitFor(() => expect(editing.conflict.value).toContain('another window'))
    expect(service.stored.board.purpose).toBe('theirs')
    await editing.resolve(mine)
    await waiting
    expect(service.stored.board.purpose).toBe(purpose)
    expect(editing.board.value?.purpose).toBe(purpose)
    expect(editing.conflict.value).toBe('')
  })
})
