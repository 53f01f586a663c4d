/** Roles of a model's nodes, in node order. */
export type Roles = readonly string[]

/** `role` given to node `index`; the node that had it takes this one's old role, so that no role is ever double. */
export function assigned(roles: Roles, index: number, role: string): string[] {
  const old = roles[index] ?? ''
  return roles.map((other, k) => (k === index ? role : other === role ? old : other))
}

/** Why these roles cannot be kept, or null. */
export function refusal(roles: Roles): string | null {
  const twice = roles.find((role, k) => roles.indexOf(role) !== k)
  if (twice) return `Two nodes are ${twice}: give each node its own role.`
  if (roles.some((role) => !role.trim())) return 'Give every node a role.'
  const odd = roles.find((role) => !/^[!-~]{1,64}$/.test(role))
  return odd ? `“${odd}” is no name of a pin: write one word.` : null
}

/** The required roles that no node has. */
export function missing(roles: Roles, required: readonly string[]): string[] {
  return required.filter((role) => !roles.includes(role))
}
