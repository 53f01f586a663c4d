import type { CheckView } from '@/api/client'

type Share = NonNullable<CheckView['shares']>[number]

/** The root of the sum of squares: mechanisms are independent. */
export const togetherOf = (shares: readonly Pick<Share, 'value'>[]) => Math.sqrt(shares.reduce((sum, { value }) => sum + value * value, 0))

/** The density that is left without some, as an expression. */
export const withoutThem = (silent: readonly Pick<Share, 'trace'>[]) => `sqrt(max(noise^2${silent.map(({ trace }) => `-${trace}^2`).join('')},0))`
