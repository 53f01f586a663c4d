import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { Board } from '@/api/client'

/** An edit of one's own: the board before and after it, and what was done. */
export interface Step {
  before: Board
  after: Board
  what: string
}

/** One's own edits that can be undone, and those undone, per board, for as long as the window is open. */
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

  /** Note an edit that was made. */
  function note(step: Step) {
    past.value = [...past.value, step]
    future.value = []
  }

  /** Forget an edit: it was refused, or others have changed what it changed. */
  function forget(step: Step) {
    past.value = past.value.filter((other) => other !== step)
    future.value = future.value.filter((other) => other !== step)
  }

  /** Note that the last step was undone, or done again. */
  function moved(direction: 'undo' | 'redo') {
    const [from, to] = direction === 'undo' ? [past, future] : [future, past]
    const step = from.value.at(-1)
    if (!step) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, step]
  }

  return {
    open, note, forget, moved,
    undoTarget: computed(() => past.value.at(-1)),
    redoTarget: computed(() => future.value.at(-1)),
  }
})
