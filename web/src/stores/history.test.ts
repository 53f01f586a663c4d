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
    history.note(board('a'), 'one')
    history.note(board('b'), 'two')
    expect(history.undoTarget?.board.title).toBe('b')
    history.moved('undo', board('c'))
    expect(history.undoTarget?.board.title).toBe('a')
    expect(history.redoTarget?.board.title).toBe('c')
    history.moved('redo', board('b'))
    expect(history.undoTarget?.board.title).toBe('b')
    expect(history.redoTarget).toBeUndefined()
  })

  it('says what a step did, both ways', () => {
    const history = useHistory()
    history.open('words')
    history.note(board('a'), 'R1 moved')
    history.moved('undo', board('b'))
    expect(history.redoTarget).toEqual({ board: board('b'), what: 'R1 moved' })
  })

  it('forgets an edit that was refused', () => {
    const history = useHistory()
    history.open('refused')
    const before = board('a')
    history.note(before, 'one')
    history.forget(before)
    expect(history.undoTarget).toBeUndefined()
  })

  it('forgets what was undone when something else is edited', () => {
    const history = useHistory()
    history.note(board('a'), 'one')
    history.moved('undo', board('b'))
    history.note(board('a'), 'one')
    expect(history.redoTarget).toBeUndefined()
  })

  it('begins anew with another board, and goes on with the same one', () => {
    const history = useHistory()
    history.open('one')
    history.note(board('a'), 'one')
    history.open('one')
    expect(history.undoTarget?.board.title).toBe('a')
    history.open('two')
    expect(history.undoTarget).toBeUndefined()
  })

  it('holds 500 steps', () => {
    const history = useHistory()
    for (let k = 0; k < 500; k++) history.note(board(String(k)), `step ${k}`)
    for (let k = 499; k >= 0; k--) {
      expect(history.undoTarget?.board.title).toBe(String(k))
      history.moved('undo', board('x'))
    }
    expect(history.undoTarget).toBeUndefined()
  })
})
