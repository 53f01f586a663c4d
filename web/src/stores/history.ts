import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import type { Board } from '@/api/client'

/** What undo returns to and redo comes back to, per board, for as long as the window is open. */
export const useHistory = defineStore('history', () => {
  const board = ref('')
  const past = shallowRef<readonly Board[]>([])
  const future = shallowRef<readonly Board[]>([])

  /** Begin anew when another board is opened. */
  function open(id: string) {
    if (board.value === id) return
    board.value = id
    past.value = []
    future.value = []
  }

  /** Note that `before` was replaced by an edit. */
  function note(before: Board) {
    past.value = [...past.value, before]
    future.value = []
  }

  /** Note that undo or redo moved away from `present`. */
  function moved(direction: 'undo' | 'redo', present: Board) {
    if (direction === 'undo') {
      past.value = past.value.slice(0, -1)
      future.value = [...future.value, present]
    } else {
      future.value = future.value.slice(0, -1)
      past.value = [...past.value, present]
    }
  }

  return {
    open, note, moved,
    undoTarget: computed(() => past.value.at(-1)),
    redoTarget: computed(() => future.value.at(-1)),
  }
})
