/**
 * Where the text of an element statement names nets: in v(...) of an expression, and in the list of controlling nodes
 * after POLY(n) or NULLOR. Everything else, numbers and names of models above all, only looks like one. The netlist
 * language knows no case.
 */
const PROBE = /\bv\(([^()]*)\)/gi
const LIST = /^(\s*(?:poly\s*\(\s*(\d+)\s*\)|nullor)\s+)(.*)$/is

/** The text with every net that it names sent through `to`. */
export function withNetsOfText(designator: string, text: string, to: (net: string) => string): string {
  const probed = text.replace(PROBE, (_, names: string) => `v(${names.split(',').map((name) => to(name.trim())).join(',')})`)
  const list = /^[EG]/i.test(designator) ? LIST.exec(probed) : null
  if (!list) return probed
  const [, start = '', dimension = '1', rest = ''] = list
  let left = 2 * Number(dimension)
  return start + rest.replace(/[^\s(),]+/g, (word) => (left-- > 0 ? to(word) : word))
}

/** The nets that a statement's text names. */
export function netsOfText(designator: string, text: string): string[] {
  const found: string[] = []
  withNetsOfText(designator, text, (net) => {
    found.push(net)
    return net
  })
  return found
}
