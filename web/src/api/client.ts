import createClient from 'openapi-fetch'
import type { components, paths } from './generated/schema'

type Schemas = components['schemas']
export type Board = Schemas['Board']
export type Circuit = Schemas['Circuit']
export type Check = Schemas['Check']
export type Part = Circuit['parts'][number]
export type Fixture = Check['fixtures'][number]
export type Spread = Board['spreads'][number]
export type Limit = Board['limits'][number]
export type Study = Board['studies'][number]
export type BoardView = Schemas['BoardView']
export type CheckView = Schemas['CheckView']
export type Mechanism = Schemas['Mechanism']
export type CheckCard = Schemas['CheckCard']
export type CurveView = Schemas['CurveView']
export type Analysis = Check['analysis']
export type Measurement = Check['measurements'][number]
export type Source = Extract<Fixture, { kind: 'source' }>
export type Waveform = NonNullable<Source['waveform']>
export type Quantity = Schemas['QuantityView']
export type VariantEntry = Schemas['VariantEntry']
export type Compared = Schemas['ComparedView']
export type FormulaView = Schemas['FormulaView']
export type FormulaName = Schemas['FormulaName']
export type ClosedForm = Schemas['ClosedFormEntry']
export type Vocabulary = Schemas['Vocabulary']
export type Finding = Schemas['Finding']
export type ModelDetail = Schemas['ModelDetail']
export type ModelEntry = Schemas['ModelEntry']
export type Reading = Schemas['ReadingView']
export type ReadingEntry = Schemas['EntryView']
export type ModelFile = Schemas['FileView']
export type ModelsSave = Schemas['ModelsSave']
export type ModelChange = Schemas['ModelChange']
export type ModelSymbol = Schemas['Symbol']
export type Kind = Schemas['KindView']
export type Qualification = Schemas['QualificationView']
export type QualificationLine = Schemas['LineView']
export type BenchCard = Schemas['Card']
export type DataSheetLine = Schemas['DataSheetLine']
export type Listing = Schemas['ListingView']
export type StudyView = Schemas['StudyView']
export type StudyColumn = Schemas['ColumnView']
export type PartShares = Schemas['PartShares']
export type Watts = Schemas['WattsView']
export type Envelope = Schemas['EnvelopeView']
export type StudyPlaces = Schemas['PlacesView']
export type VerdictView = Schemas['VerdictView']
export type VerdictRow = Schemas['VerdictRow']
export type VerdictCell = Schemas['CellView']
export type Choice = Schemas['Choice']
export type StageComputed = Schemas['StageComputed']
export type PastedView = Schemas['PastedView']
export type Remark = Schemas['Remark']
export type RevisionEntry = Schemas['RevisionEntry']
type Problem = Pick<Schemas['Problem'], 'message'> & Partial<Schemas['Problem']>

/** What is wrong and what to do about it, as sentences. */
function sentences(message: string, remedy = ''): string {
  return `${message.replace(/[.!?]?$/, '.')} ${remedy}`.trim()
}

/** Where something is wrong, as the start of a sentence: what the message does not name itself. */
export function whereText(place: Schemas['Place'] | undefined, message: string): string {
  const said = new Set([...message.matchAll(/[\w.+/-]+/g), ...message.matchAll(/\w+/g)].map(([word]) => word))
  const words = [
    place?.file ?? '',
    place?.line ? `line ${place.line}` : '',
    place?.part && !said.has(place.part) ? `part ${place.part}` : '',
    place?.nodes?.some((node) => !said.has(node)) ? `node${place.nodes.length === 1 ? '' : 's'} ${place.nodes.join(', ')}` : '',
  ].filter(Boolean)
  return words.length ? `${words.join(', ')}: ` : ''
}

/** Why a request was not carried out: what is wrong, what to do, and which fields are at fault. */
export class RequestProblem extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem,
  ) {
    super(sentences(whereText(problem.place, problem.message) + problem.message, problem.remedy))
  }

  /** The message for the field at `path` of the request, or null. */
  fault(path: string): string | null {
    const fault = this.problem.faults?.find((candidate) => candidate.path === path)
    return fault ? sentences(fault.message, fault.remedy) : null
  }
}

export const client = createClient<paths>({ headers: { 'X-Verdad': '1' } })

/** This window, as the service knows it: what it asks for later overtakes what it asked for before. */
export const WINDOW = crypto.getRandomValues(new Uint32Array(2)).join('-')

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** The data of an answer. Throws RequestProblem for a refusal, and for a service that does not answer. */
export async function unwrap<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch {
    throw new RequestProblem(0, {
      message: 'Verdad does not answer.',
      remedy: 'Start it with ./verdad demo, then try again.',
    })
  }
  if (answer.data !== undefined) return answer.data
  const { error, response } = answer
  if (error && typeof error === 'object' && 'message' in error) throw new RequestProblem(response.status, error as Problem)
  const message = response.status === 413 ? 'The upload is too large.' : `The request failed (${response.status}).`
  throw new RequestProblem(response.status, { message })
}
