import { onBeforeUnmount, shallowReactive, toValue, type MaybeRefOrGetter } from 'vue'

/** Something that can be done now, by its name. */
export interface Command {
  title: string
  /** What it belongs to, such as Check or Card. */
  group: string
  keys?: string
  run: () => unknown
}

/** What every part of the page offers; those that are on the screen now. */
const offered = shallowReactive(new Set<MaybeRefOrGetter<Command[]>>())

/** Offer commands as long as the component lives. */
export function useCommands(commands: MaybeRefOrGetter<Command[]>) {
  offered.add(commands)
  onBeforeUnmount(() => offered.delete(commands))
}

export const commandsNow = (): Command[] => [...offered].flatMap((commands) => toValue(commands))

/** Commands whose names hold all the words, those that begin with the first one before the others. */
export function matching(commands: readonly Command[], text: string): Command[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const found = commands.filter(({ title, group }) => words.every((word) => `${group} ${title}`.toLowerCase().includes(word)))
  const [first = ''] = words
  return found.sort((a, b) => Number(b.title.toLowerCase().startsWith(first)) - Number(a.title.toLowerCase().startsWith(first)))
}
