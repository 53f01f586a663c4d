import type { Board } from '@/api/client'

/** What the frame hands to every page of a board. */
export interface BoardPage {
  boardId: string
  board: Board
  /** The number of the state that is saved. */
  revision: number
  /** Whether edits are shown that are not saved yet: what the service knows is then older. */
  saving: boolean
  /** Shows and saves what the function makes of the board; rejects with the reason, the board being as it was. */
  edit: (change: (board: Board) => Board, what?: string) => Promise<void>
}
