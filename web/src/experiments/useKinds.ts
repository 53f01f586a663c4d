import { useVocabulary } from '@/api/trials'
import { computed } from 'vue'

/** The kinds of check, as the service tells of them. */
export function useKinds() {
  const vocabulary = useVocabulary()
  const kinds = computed(() => vocabulary.data.value?.checks ?? [])
  const of = (kind: string | undefined) => kinds.value.find((entry) => entry.kind === kind)
  return { kinds, of, titleOf: (kind: string) => of(kind)?.title ?? kind }
}
