/** What a curve is shown as: the same expression inside another function. */

export const SHOWN_AS = [['', 'as it is'], ['db', 'dB'], ['mag', 'magnitude'], ['phase', 'phase'], ['delay', 'delay'], ['re', 'real'], ['im', 'imaginary']] as const

const WRAPPED = /^(db|mag|phase|delay|re|im)\((.*)\)$/i

/** Whether the parentheses of a wrapped expression belong together: those of `db(a)+db(b)` do not. */
function closes(inner: string): boolean {
  let depth = 0
  for (const sign of inner) {
    depth += sign === '(' ? 1 : sign === ')' ? -1 : 0
    if (depth < 0) return false
  }
  return depth === 0
}

function unwrapped(expression: string): [string, string] {
  const found = WRAPPED.exec(expression.trim())
  return found?.[1] && found[2] !== undefined && closes(found[2]) ? [found[1].toLowerCase(), found[2]] : ['', expression]
}

export const wrapper = (expression: string) => unwrapped(expression)[0]
export const bare = (expression: string) => unwrapped(expression)[1]
export const shownAs = (expression: string, name: string) => (name ? `${name}(${bare(expression)})` : bare(expression))
