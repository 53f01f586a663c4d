import type { Board } from '@/api/client'

/** What the frame hands to every page of a board. */
export interface BoardPage {
  boardId: string
  board: Board
  /** Saves what the function makes of the board; rejects with a RequestProblem, the board being as it was. */
  edit: (change: (board: Board) => Board) => Promise<void>
}
