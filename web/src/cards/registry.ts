import type { CheckCard } from '@/api/client'
import type { Component } from 'vue'
import CurveCard from './CurveCard.vue'
import PolesCard from './PolesCard.vue'
import SharesCard from './SharesCard.vue'

/** Which component draws a card of a shape; curves draw all others. */
const BY_SHAPE: Partial<Record<CheckCard['shape'], Component>> = { poles: PolesCard, shares: SharesCard }

export const componentOf = (card: CheckCard): Component => BY_SHAPE[card.shape] ?? CurveCard
