import type { CheckView, Compared, VariantEntry } from '@/api/client'

/** Something that is compared, and what was found of it in one check. */
export type Candidate = VariantEntry & { found: Compared | undefined }

export const keyOf = ({ variant }: VariantEntry) => JSON.stringify(variant)
export const titleOf = ({ variant: { part }, title }: VariantEntry) => (part ? `${part}: ${title}` : title)

export const isEvidence = (view: CheckView | null | undefined) => !view?.findings.some(({ severity }) => severity === 'error')

/** What it says of the limit on a measurement; nothing as long as it is computed. */
export function heldBy(candidate: Candidate | undefined, measurement: string) {
  if (!candidate?.found) return ''
  return isEvidence(candidate.found.result) ? (candidate.found.states?.[measurement] ?? 'unproven') : 'unproven'
}
