import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { Board } from '@/api/client'

/** A board to go back or forth to, and what was done in between. */
export interface Step {
  board: Board
  what: string
}

/** What undo returns to and redo comes back to, per board, for as long as the window is open. */
export const useHistory = defineStore('history', () => {
  const board = ref('')
  const past = shallowRef<readonly Step[]>([])
  const future = shallowRef<readonly Step[]>([])

  /** Begin anew when another board is opened. */
  function open(id: string) {
    if (board.value === id) return
    board.value = id
    past.value = []
    future.value = []
  }

  /** Note that `before` was replaced by an edit. */
  function note(before: Board, what: string) {
    past.value = [...past.value, { board: before, what }]
    future.value = []
  }

  /** Forget the edit that replaced `before`: it was refused. */
  function forget(before: Board) {
    past.value = past.value.filter((step) => step.board !== before)
  }

  /** Note that undo or redo moved away from `present`. */
  function moved(direction: 'undo' | 'redo', present: Board) {
    const [from, to] = direction === 'undo' ? [past, future] : [future, past]
    const step = from.value.at(-1)
    if (!step) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, { board: present, what: step.what }]
  }

  return {
    open, note, forget, moved,
    undoTarget: computed(() => past.value.at(-1)),
    redoTarget: computed(() => future.value.at(-1)),
  }
})
