import { useVocabulary } from '@/api/trials'
import { computed } from 'vue'

/** The kinds of check, fixtures and waveforms, as the service tells of them. */
export function useKinds() {
  const vocabulary = useVocabulary()
  const kinds = computed(() => vocabulary.data.value?.checks ?? [])
  const of = (kind: string | undefined) => kinds.value.find((entry) => entry.kind === kind)
  const fixtureOf = (kind: string | undefined) => vocabulary.data.value?.fixtures.find((entry) => entry.kind === kind)
  const waveforms = computed(() => vocabulary.data.value?.waveforms ?? [])
  const attachments = computed(() => vocabulary.data.value?.attachments ?? [])
  return { kinds, of, titleOf: (kind: string) => of(kind)?.title ?? kind, fixtureOf, waveforms, attachments }
}
