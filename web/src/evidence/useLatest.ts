import { ref, shallowRef } from 'vue'

/** How long typing rests before it is asked what it means, in ms. */
const REST = 180

/** What the service says of the latest text; nothing while it is asked, and of an empty one. */
export function useLatest<Said>(answer: (text: string) => Promise<Said | undefined>) {
  const said = shallowRef<Said>()
  const turn = ref(0)
  function ask(text: string) {
    const now = (turn.value += 1)
    said.value = undefined
    if (!text.trim()) return
    setTimeout(async () => {
      if (now !== turn.value) return
      const found = await answer(text).catch(() => undefined)
      if (now === turn.value) said.value = found
    }, REST)
  }
  return { said, ask }
}
