import type { Board } from '@/api/client'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import { useHistory } from './history'

const board = (title: string) => ({ title }) as Board
const step = (before: string, after: string, what = 'one') => ({ before: board(before), after: board(after), what })

describe('history', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('goes back and forth through edits', () => {
    const history = useHistory()
    history.open('one')
    history.note(step('a', 'b'))
    history.note(step('b', 'c'))
    expect(history.undoTarget?.before.title).toBe('b')
    history.moved('undo')
    expect(history.undoTarget?.before.title).toBe('a')
    expect(history.redoTarget?.after.title).toBe('c')
    history.moved('redo')
    expect(history.undoTarget?.before.title).toBe('b')
    expect(history.redoTarget).toBeUndefined()
  })

  it('says what a step did, both ways', () => {
    const history = useHistory()
    history.open('words')
    history.note(step('a', 'b', 'R1 moved'))
    history.moved('undo')
    expect(history.redoTarget).toEqual(step('a', 'b', 'R1 moved'))
  })

  it('forgets an edit that was refused', () => {
    const history = useHistory()
    history.open('refused')
    const refused = step('a', 'b')
    history.note(refused)
    history.forget(refused)
    expect(history.undoTarget).toBeUndefined()
  })

  it('forgets what was undone when something else is edited', () => {
    const history = useHistory()
    history.note(step('a', 'b'))
    history.moved('undo')
    history.note(step('a', 'b'))
    expect(history.redoTarget).toBeUndefined()
  })

  it('begins anew with another board, and goes on with the same one', () => {
    const history = useHistory()
    history.open('one')
    history.note(step('a', 'b'))
    history.open('one')
    expect(history.undoTarget?.before.title).toBe('a')
    history.open('two')
    expect(history.undoTarget).toBeUndefined()
  })

  it('holds 500 steps', () => {
    const history = useHistory()
    for (let k = 0; k < 500; k++) history.note(step(String(k), String(k + 1), `step ${k}`))
    for (let k = 499; k >= 0; k--) {
      expect(history.undoTarget?.before.title).toBe(String(k))
      history.moved('undo')
    }
    expect(history.undoTarget).toBeUndefined()
  })
})
