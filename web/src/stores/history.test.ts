import type { Board } from '@/api/client'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import { useHistory } from './history'

const board = (title: string) => ({ title }) as Board

describe('history', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('goes back and forth through edits', () => {
    const history = useHistory()
    history.open('one')
    history.note(board('a'))
    history.note(board('b'))
    expect(history.undoTarget?.title).toBe('b')
    history.moved('undo', board('c'))
    expect(history.undoTarget?.title).toBe('a')
    expect(history.redoTarget?.title).toBe('c')
    history.moved('redo', board('b'))
    expect(history.undoTarget?.title).toBe('b')
    expect(history.redoTarget).toBeUndefined()
  })

  it('forgets what was undone when something else is edited', () => {
    const history = useHistory()
    history.note(board('a'))
    history.moved('undo', board('b'))
    history.note(board('a'))
    expect(history.redoTarget).toBeUndefined()
  })

  it('begins anew with another board, and goes on with the same one', () => {
    const history = useHistory()
    history.open('one')
    history.note(board('a'))
    history.open('one')
    expect(history.undoTarget?.title).toBe('a')
    history.open('two')
    expect(history.undoTarget).toBeUndefined()
  })

  it('holds 500 steps', () => {
    const history = useHistory()
    for (let k = 0; k < 500; k++) history.note(board(String(k)))
    for (let k = 499; k >= 0; k--) {
      expect(history.undoTarget?.title).toBe(String(k))
      history.moved('undo', board('x'))
    }
    expect(history.undoTarget).toBeUndefined()
  })
})
