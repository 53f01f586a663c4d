/** Fields of a form, from the JSON schema of what it fills in. */

export interface Choice {
  value: string
  title: string
}

export interface Field {
  name: string
  label: string
  hint: string
  unit: string
  /** What leaving it out means; empty where it must be given. */
  empty: string
  /** What it names: a net, a driver, a quantity, a check; empty for what is typed or ticked. */
  chooses: string
  control: 'pick' | 'many' | 'tick' | 'whole' | 'number' | 'text'
  words: Choice[]
  /** Settings that go back to their defaults with another value of it. */
  resets: string[]
  /** What it is where nobody says it. */
  fallback: unknown
  /** The piece of the interface that shows it, where it is no plain field. */
  shown: string
  /** The setting without which it means nothing; empty where there is none. */
  needs: string
  least: number | undefined
  most: number | undefined
}

interface Property {
  title?: string
  description?: string
  unit?: string
  empty?: string
  chooses?: string
  resets?: string[]
  shown?: string
  needs?: string
  default?: unknown
  titles?: Record<string, string>
  type?: string
  enum?: string[]
  anyOf?: Property[]
  items?: Property
  minimum?: number
  maximum?: number
}

/** The fields of a schema: a name, those that choose among what the circuit has, the others in their order, ticks. */
export function fieldsOf(schema: Record<string, unknown>): Field[] {
  const properties = Object.entries((schema.properties ?? {}) as Record<string, Property>).filter(([name]) => !['kind', 'id', 'title'].includes(name))
  const fields = properties.map(([name, property]) => fieldOf(name, property))
  const rank = ({ name, chooses, control }: Field) => (name === 'name' ? 0 : chooses ? 1 : control === 'tick' ? 3 : 2)
  return fields.sort((a, b) => rank(a) - rank(b))
}

function fieldOf(name: string, property: Property): Field {
  const kinds = (property.anyOf ?? [property]).filter(({ type }) => type !== 'null')
  const [main = property] = kinds
  const words = (main.enum ?? []).map((value) => ({ value, title: property.titles?.[value] ?? value }))
  return {
    name, label: property.title ?? name, hint: property.description ?? '', unit: property.unit ?? '', empty: property.empty ?? '',
    chooses: property.chooses ?? '', control: controlOf(main, property.chooses ?? '', words.length), words, resets: property.resets ?? [],
    fallback: property.default ?? null, shown: property.shown ?? '', needs: property.needs ?? '',
    least: main.minimum, most: main.maximum,
  }
}

function controlOf(main: Property, chooses: string, words: number): Field['control'] {
  if (main.type === 'array') return chooses ? 'many' : 'text'
  if (chooses || words) return 'pick'
  if (main.type === 'boolean') return 'tick'
  if (main.type === 'integer') return 'whole'
  return main.type === 'number' ? 'number' : 'text'
}

/** What was typed as the value of a field. Throws what is wrong with it. */
export function valueOf(field: Field, typed: string): unknown {
  const text = typed.trim()
  if (!text && field.empty) return null
  if (field.control !== 'whole' && field.control !== 'number') return text
  const number = Number(text)
  const range = field.least !== undefined && field.most !== undefined ? ` from ${field.least} to ${field.most}` : ''
  if (!text || !Number.isFinite(number) || (field.control === 'whole' && !Number.isInteger(number))) {
    throw new Error(`'${text}' is no ${field.control === 'whole' ? 'whole ' : ''}number. Write one${range || ', such as 50'}.`)
  }
  if (number < (field.least ?? -Infinity) || number > (field.most ?? Infinity)) throw new Error(`${field.label} is a number${range}.`)
  return number
}
