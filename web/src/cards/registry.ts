import type { CheckCard } from '@/api/client'
import type { Component } from 'vue'
import CurveCard from './CurveCard.vue'
import PolesCard from './PolesCard.vue'
import SharesCard from './SharesCard.vue'
import SmithCard from './SmithCard.vue'

/** Which component draws a card of a shape; curves draw all others. */
const BY_SHAPE: Partial<Record<CheckCard['shape'], Component>> = { poles: PolesCard, shares: SharesCard, smith: SmithCard }

/** Whether a card is as high as what it lists; curves fill what they are given. */
export const isList = (card: CheckCard) => card.shape in BY_SHAPE

export const componentOf = (card: CheckCard): Component => BY_SHAPE[card.shape] ?? CurveCard
