import createClient from 'openapi-fetch'
import { Problem, problemOf } from './problem'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Document = Schemas['Document']
export type Board = Schemas['Board']
export type BoardPart = Schemas['Part']
/** What is saved: a view, or a board of views. */
export type Content = Document | Board
export type Condition = Schemas['Condition']
/** An operator of a condition. */
export type Op = NonNullable<Condition['op']>
/** How a total is worked out. */
export type Fn = Schemas['Total']['fn']
export type Linked = Schemas['Linked']
export type LinkBy = Schemas['LinkBy']
export type Column = Schemas['Column']
export type Group = Schemas['Group']
export type Sort = Schemas['Sort']
export type Total = Schemas['Total']
export type Compare = Schemas['Compare']
export type Calculated = Schemas['Calculated']
export type Bucket = Schemas['Bucket']
export type Beside = Schemas['Beside']
export type LinkedValue = Schemas['LinkedValue']
export type LinkedOffer = Schemas['LinkedOffer']
export type Band = Schemas['Band']
export type Lines = Schemas['Lines']
export type OpChoice = Schemas['OpChoice']
export type FormulaFault = Schemas['FormulaFault']
export type FormulaFunction = Schemas['Function']
export type Definition = Schemas['Definition']
export type Period = Schemas['Period']
export type Field = Schemas['Field']
export type Phrase = Schemas['Phrase']
export type Level = Schemas['Level']
export type Bin = Schemas['Bin']
export type Line = Schemas['Line']
export type ColumnHead = Schemas['ColumnHead']
export type RunResult = Schemas['RunOutputBody']
/** Unsaved work on a view or a board. */
export type Draft<D extends Content = Content> = Omit<Schemas['Draft'], 'document'> & { document: D }
export type Drawing = Schemas['Drawing']
export type ChartSpec = Schemas['Chart']
export type Trouble = Schemas['Trouble']
export type Format = Schemas['Format']
export type SetDescription = Schemas['SetDescription']
export type SetWords = Schemas['SetWords']
export type FieldWords = Schemas['FieldWords']
export type LinkWords = Schemas['LinkWords']
export type LoadedField = Schemas['LoadedField']
export type FieldOverview = Schemas['FieldOverview']
export type RecordFact = Schemas['RecordFact']
export type FactBody = Schemas['Fact']
export type Filling = Schemas['Filling']
export type FillIn = Schemas['FillIn']
export type Saying = Schemas['Saying']
export type Upload = Schemas['Upload']
export type FileLook = Schemas['FileLook']
export type FieldLook = Schemas['FieldLook']
export type FileRecipe = Schemas['Recipe']
export type RecipeField = Schemas['RecipeField']
export type FileSettings = Schemas['Settings']
export type BroughtIn = Schemas['BroughtIn']
export type AsideRow = Schemas['Aside']
export type Round = Schemas['Round']
export type KeptResult = Schemas['KeptResult']
export type Differences = Schemas['DifferencesOutputBody']
export type Delivery = Schemas['Delivery']
export type DeliveryTerms = Schemas['DeliveryTerms']
export type SentLetter = Schemas['SentLetter']
/** A saved view or, with a board as its document, a saved board. */
export type Saved<D extends Content> = Omit<Schemas['View'], 'document'> & { document: D }
export type View = Saved<Document>
export type ViewSummary = Schemas['ViewSummary']
export type RecordSet = Schemas['RecordSet']
export type Me = Schemas['Me']

export const api = createClient<paths>({ baseUrl: '/' })

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** Told when the server says that nobody is signed in; see main.ts. */
export const session = { ended: () => undefined as void }

/** The body of an answer; a refusal or a lost connection is thrown as a Problem. */
export async function unwrap<T>(answer: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>
  try {
    got = await answer
  } catch (cause) {
    if (cause instanceof DOMException && cause.name === 'AbortError') throw cause
    throw new Problem(0, 'The server does not answer. What you typed is kept; try again in a moment.')
  }
  if (got.response.status === 401) session.ended()
  if (!got.response.ok) throw problemOf(got.response.status, got.error)
  return got.data as T
}
