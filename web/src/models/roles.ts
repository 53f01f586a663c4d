import type { Reading } from '@/api/client'

/** Roles of the nodes of every subcircuit, in node order. */
export type Roles = Record<string, string[]>

/** What the reading proposes; a node without a proposal gets its own name for a role, as a pin of that name. */
export function proposed(reading: Reading): Roles {
  return Object.fromEntries(
    reading.subcircuits.map(({ name, pins }) => [name, pins.map((pin) => pin.role ?? pin.node)]),
  )
}

/** Why these roles cannot be kept, or null. */
export function refusal(roles: readonly string[]): string | null {
  const twice = roles.find((role, k) => roles.indexOf(role) !== k)
  if (twice) return `Two nodes are ${twice}: give each node its own role.`
  return roles.some((role) => !role.trim()) ? 'Give every node a role.' : null
}
