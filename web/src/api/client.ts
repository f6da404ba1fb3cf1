// All calls to the server go through here. Types are generated from the Rust types (npm run api).
import createClient, { type Middleware } from 'openapi-fetch'
import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Marks = Schemas['Marks']
export type Mark = Schemas['Mark']
export type PersonView = Schemas['PersonView']
export type RoomView = Schemas['RoomView']
export type Readings = Schemas['Readings']
export type Light = Schemas['Light']
export type MarkReading = Schemas['MarkReading']
export type Sighting = Schemas['Sighting']
export type CaseView = Schemas['CaseView']
export type CaseCard = Schemas['CaseCard']
export type FrameView = Schemas['FrameView']
export type Person = Schemas['Person']
export type Brief = Schemas['Brief']
export type BriefView = Schemas['BriefView']
export type RuleBook = Schemas['RuleBook']
export type Mend = Schemas['Mend']
export type MendingLine = Schemas['MendingLine']
export type Myth = Schemas['Myth']
export type RemarkView = Schemas['RemarkView']
export type RemarkEdit = Schemas['RemarkEdit']
export type ParagraphView = Schemas['ParagraphView']
export type PhraseBook = Schemas['PhraseBook']
export type ScaleStep = Schemas['ScaleStep']
export type Proposal = Schemas['Proposal']
export type Method = Schemas['Method']
export type Question = Schemas['Question']
export type Plot = Schemas['Plot']
export type ShotView = Schemas['ShotView']
export type Calibration = Schemas['Calibration']
export type GreyTarget = Schemas['GreyTarget']
export type Modifier = Schemas['Modifier']
export type Sheet = Schemas['Sheet']
export type Stand = Schemas['Stand']
export type KitBoard = Schemas['KitBoard']
export type PlanView = Schemas['PlanView']
export type PlacedLight = Schemas['PlacedLight']
export type SetPlan = Schemas['SetPlan']
export type Choices = Schemas['Choices']
export type Verdict = Schemas['Verdict']
export type Finding = Schemas['Finding']
/** A set with all of its lists. */
export type WishLook = Schemas['WishLook']
export type Wish = Schemas['Wish']
export type Proposed = Schemas['Proposed']
export type LightSet = Schemas['LightSet'] & Required<Pick<Schemas['LightSet'], 'subjects' | 'lights' | 'boards' | 'flags' | 'walls'>>
export const wholeSet = (s: Schemas['LightSet']): LightSet => ({ ...s, subjects: s.subjects ?? [], lights: s.lights ?? [], boards: s.boards ?? [], flags: s.flags ?? [], walls: s.walls ?? [] })
export type SetLight = Schemas['SetLight']
export type SetView = Schemas['SetView']
export type SetMeter = Schemas['SetMeter']
export type LightMeter = Schemas['LightMeter']
export type Board = Schemas['Board']
export type Drawn = Schemas['Drawn']
export type Drawing = Schemas['Drawing']
export type DrawingLine = Schemas['Line']
export type Grip = Schemas['Grip']
export type Note = Schemas['Note']
export type HouseRules = Schemas['HouseRules']
export type OpenAssignment = Schemas['OpenAssignment']
export type JobView = Schemas['JobView']
export type Task = Schemas['Task']
export type Thing = Schemas['Thing']
export type MarkedFrame = Schemas['MarkedFrame']
export type Sum = Schemas['Sum']
export type Field = Schemas['Field']
export type Curve = Schemas['Curve']
export type BenchAnswer = Schemas['BenchAnswer']
/** A kit with all of its shelves. */
export type Kit = Required<Omit<Schemas['Kit'], 'ceiling_m'>> & Pick<Schemas['Kit'], 'ceiling_m'>
export const wholeKit = (k: Schemas['Kit']): Kit => ({ ...k, lamp: k.lamp ?? [], modifier: k.modifier ?? [], sheet: k.sheet ?? [], board: k.board ?? [], stand: k.stand ?? [] })
export type KitView = Schemas['KitView']
export type Lamp = Schemas['Lamp']
export type LampReading = Schemas['LampReading']
export type Metered = Schemas['Metered']
export type Packing = Schemas['Packing']
export type Desk = Required<Pick<Schemas['Desk'], 'plates'>> & Schemas['Desk']
export type DeskPlate = Schemas['DeskPlate']
export type PlateMask = Schemas['PlateMask']
export type MaskStroke = Schemas['MaskStroke']
export type MaskGround = Schemas['MaskGround']
export type DeskView = Schemas['DeskView']
export type SumCheck = Schemas['SumCheck']
export type MergePlan = Schemas['MergePlan']
export type PatchWanted = Schemas['PatchWanted']
export type ShotList = Schemas['ShotList']
export type WantedView = Schemas['WantedView']
export type Series = Schemas['Series']
export type Placed = Schemas['Placed']
export type SeriesView = Schemas['SeriesView']
export type SeriesComparison = Schemas['SeriesComparison']
export type Crop = Schemas['Crop']
export type OneLampPlan = Schemas['OneLampPlan']
export type LinePlan = Schemas['LinePlan']
export type LineWay = Schemas['LineWay']
export type LineWanted = Schemas['LineWanted']
export type LineShown = Schemas['LineShown']
export type ShownRow = Schemas['ShownRow']
export type Gel = Schemas['Gel']
export type Substitute = Schemas['Substitute']
export type Candidate = Schemas['Candidate']
export type CandidatesView = Schemas['CandidatesView']
export type SeparatingTest = Schemas['SeparatingTest']
export type ComparisonView = Schemas['ComparisonView']
export type AlignmentView = Schemas['AlignmentView']
export type ChainView = Schemas['ChainView']
export type TakeView = Schemas['TakeView']
export type LinkEdit = Schemas['LinkEdit']
export type LedgerLine = Schemas['LedgerLine']
export type NextView = Schemas['NextView']
export type RecipeView = Schemas['RecipeView']
export type BuildView = Schemas['BuildView']
export type BuildLog = Schemas['BuildLog']
export type BuildStep = Schemas['BuildStep']
export type ClassCard = Schemas['ClassCard']
export type ClassView = Schemas['ClassView']
export type Seat = Schemas['Seat']
export type AuditLine = Schemas['AuditLine']
export type Assignment = Schemas['Assignment']
export type AssignmentCard = Schemas['AssignmentCard']
export type AssignmentView = Schemas['AssignmentView']
export type Criterion = Schemas['Criterion']
export type WallPicture = Schemas['WallPicture']
export type SubmissionView = Schemas['SubmissionView']
export type Gradebook = Schemas['Gradebook']
export type Group = Schemas['Group']
export type PeerTask = Schemas['PeerTask']
export type StudentPage = Schemas['StudentPage']
export type GraderLine = Schemas['GraderLine']
export type TableIn = Schemas['TableIn']
export type RoundCard = Schemas['RoundCard']
export type LiveRound = Schemas['LiveRound']
export type PlayerView = Schemas['PlayerView']
export type Installation = Schemas['Installation']
export type Notices = Schemas['Notices']
export type Problem = Schemas['Problem']

/** A problem document (RFC 9457) as an error: `message` is the sentence for the person. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }

  get status(): number {
    return this.problem.status
  }
}

function asProblem(value: unknown, status: number): Problem {
  if (value && typeof value === 'object' && 'detail' in value) return value as Problem
  return { type: 'urn:slantcast:unknown', title: 'No answer', status, detail: 'The server did not answer as expected. Nothing that was saved is lost; try again.' }
}

const raise: Middleware = {
  async onResponse({ response }) {
    if (!response.ok) throw new ApiProblem(asProblem(await response.json().catch(() => null), response.status))
  },
  onError({ error }) {
    if (error instanceof ApiProblem) return error
    return new ApiProblem(asProblem({ type: 'urn:slantcast:offline', title: 'No connection', status: 0, detail: 'The server cannot be reached. Your last change is kept here and will be sent again.' }, 0))
  },
}

export const api = createClient<paths>({ baseUrl: '/' })
api.use(raise)

/** The data of an answer; failures have been thrown before. */
export async function data<T>(call: Promise<{ data?: T }>): Promise<T> {
  return (await call).data as T
}

export const lightMapUrl = (frame: string, format: 'exr' | 'hdr') => `/api/frames/${frame}/light-map?format=${format}`
export const pictureUrl = (frame: string, size: 'view' | 'thumb') => `/api/frames/${frame}/picture?size=${size}`

/** Sends a picture with progress in 0..1; fetch cannot report it. */
export function upload(caseId: string, file: File, progress: (share: number) => void, belongs: { role?: string; film?: string; time_s?: number } = {}): Promise<FrameView> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    const form = new FormData()
    for (const [name, value] of Object.entries(belongs)) if (value !== undefined) form.append(name, String(value))
    form.append('file', file)
    request.open('POST', `/api/cases/${caseId}/frames`)
    request.responseType = 'json'
    request.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total)
    request.onload = () =>
      request.status < 300 ? resolve(request.response as FrameView) : reject(new ApiProblem(asProblem(request.response, request.status)))
    request.onerror = () => reject(new ApiProblem(asProblem(null, 0)))
    request.send(form)
  })
}

/** A stream of JSON lines: calls `take` for each until it is done or aborted. */
async function stream<T>(path: string, init: RequestInit, take: (line: T) => void): Promise<void> {
  const response = await fetch(path, init)
  if (!response.ok || !response.body) throw new ApiProblem(asProblem(await response.json().catch(() => null), response.status))
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { value, done } = await reader.read()
    if (done) return
    const lines = (rest + value).split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) if (line) take(JSON.parse(line) as T)
  }
}

/** Draws a set, coarse first. */
export function drawSet(caseId: string, set: LightSet, signal: AbortSignal, take: (line: Drawn) => void): Promise<void> {
  const init = { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(set), signal }
  return stream(`/api/cases/${caseId}/set/draw`, init, take)
}

/** What to change first in a picture, the best first, then pictures of it. */
export function mendings(frameId: string, signal: AbortSignal, take: (line: MendingLine) => void): Promise<void> {
  return stream(`/api/frames/${frameId}/verdict/changes`, { signal }, take)
}
