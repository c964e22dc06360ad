/** What the server answers, by the names the page uses. The forms are the server's (`design/forms`): `./ivory types` writes them. */
import type { components } from './generated'

type Forms = components['schemas']

export type Acted = Forms['Acted']
export type ContourLabel = Forms['ContourLabel']
export type AlongRow = Forms['AlongRow']
export type BenchAnswer = Forms['BenchAnswer']
export type BedRow = Forms['BedRow']
export type Beside = Forms['Beside']
export type CandidateLine = Forms['CandidateLine']
export type Crossfall = Forms['Crossfall']
export type Crossings = Forms['Crossings']
export type DesignFinding = Forms['DesignFinding']
export type Earthwork = Forms['Earthwork']
export type Edges = Forms['Edges']
export type ExchangeDifference = Forms['ExchangeDifference']
export type ExchangeDocument = Forms['ExchangeDocument']
export type FilePreview = Forms['FilePreview']
export type Finding = Forms['Finding']
export type FixedPoint = Forms['FixedPoint']
export type EditRow = Forms['EditRow']
export type GroundCut = Forms['GroundCut']
export type GroundEdit = Forms['EditRow']
export type GroundFinding = Forms['GroundFinding']
export type GroundFindings = Forms['GroundFindings']
export type GroundPick = Forms['GroundPick']
export type GroundReading = Forms['GroundReading']
export type Guide = Forms['GuideRow']
export type Head = Forms['Head']
export type LedgerLine = Forms['LedgerLine']
export type LedgerPage = Forms['LedgerPage']
export type LedgerChange = Forms['LedgerChange']
export type Levels = Forms['Levels']
export type LandPicture = Forms['LandPicture']
export type Library = Forms['Library']
export type CornerRow = Forms['CornerRow']
export type CornerShape = Forms['CornerShape']
export type JunctionRow = Forms['JunctionRow']
export type MeetingOffer = Forms['MeetingOffer']
export type JunctionSight = Forms['JunctionSight']
export type Junctions = Forms['Junctions']
export type Finished = Forms['Finished']
export type FinishedCut = Forms['FinishedCut']
export type ExactVolumes = Forms['ExactVolumes']
export type LightRoad = Forms['LightRoad']
export type Line = Forms['Line']
export type LineElement = Forms['LineElement']
export type LineFit = Forms['LineFit']
export type LineRole = Forms['LineRole']
export type Member = Forms['Member']
export type Neighbour = Forms['Neighbour']
export type NodeReason = Forms['NodeReason']
export type OfferedLines = Forms['OfferedLines']
export type Parameter = Forms['Parameter']
export type PIRow = Forms['PIRow']
export type PlacedPart = Forms['PlacedPart']
export type Problem = Forms['Problem']
export type Project = Forms['Project']
export type ProjectLine = Forms['ProjectLine']
export type ProjectSketch = Forms['ProjectSketch']
export type StandardLine = Forms['StandardLine']
export type PVIRow = Forms['PVIRow']
export type Quantity = Forms['Quantity']
export type ReportColumn = Forms['ReportColumn']
export type ReportTable = Forms['ReportTable']
export type Report = Forms['Report']
export type ReportLayout = Forms['ReportLayout']
export type MeasuredLine = Forms['MeasuredLine']
export type RoadDesign = Forms['RoadDesign']
export type RoadRow = Forms['RoadRow']
export type RoadShape = Forms['RoadShape']
export type Section = Forms['Section']
export type SectionNode = Forms['SectionNode']
export type SectionSide = Forms['SectionSide']
export type Session = Forms['Session']
export type Settings = Forms['Settings']
export type SheetFrame = Forms['SheetFrame']
export type SheetList = Forms['SheetList']
export type SheetSetRow = Forms['SheetSetRow']
export type ShelfRow = Forms['ShelfRow']
export type SightLane = Forms['SightLane']
export type SortingRule = Forms['SortingRule']
export type StandardRow = Forms['StandardRow']
export type StructureTold = Forms['StructureTold']
export type SurfaceRow = Forms['SurfaceRow']
export type SurveyLayer = Forms['SurveyLayer']
export type SurveySource = Forms['SurveySource']
export type Template = Forms['Template']
export type TrialValues = Forms['Trial']
export type TurnedBend = Forms['TurnedBend']
export type Uploaded = Forms['Uploaded']
export type VolumeRow = Forms['VolumeRow']
export type VolumesPicture = Forms['VolumesPicture']
export type Water = Forms['Water']
export type WayOut = Forms['WayOut']

export type Anchor = PVIRow['anchor']
export type GroundRole = SurveyLayer['role']
export type Layout = Required<Pick<Forms['Reading'], 'delimiter' | 'delimiter_name' | 'decimal_comma' | 'header' | 'columns' | 'names'>>
export type Role = Project['role']
export type RuleTold = Forms['RuleTold']
export type RuleSlot = RuleTold['slots'][number]
/** What the pointer does on the bench. */
export type Gesture =
  | { do: 'put'; since: string; to: [number, number]; on_ground: boolean }
  | { do: 'drag' | 'limit'; node: string; to: [number, number] }
  | { do: 'loop'; to: [number, number]; material?: string }
/** A step on a part, as `core/section/edit_part.py` knows them. */
export type Step = { do: string } & Record<string, unknown>
/** A part in its data form, lengths in the project's unit. */
export interface PartData {
  label: string
  remark: string
  end: string
  parameters: PartParameter[]
  nodes: PartNode[]
  runs: { nodes: string[]; roles: string[]; name?: string }[]
  areas: { name: string; material: string; nodes: string[] }[]
  cases: PartCase[]
  targets: { name: string; label: string; kind: 'surface' | 'level' | 'line' }[]
  checks: { label: string; value: string | number; least: string | number }[]
}
export interface PartParameter {
  name: string
  label: string
  kind: string
  value: number | string
  least?: number
  greatest?: number
  choices?: string[]
  remark?: string
}
export interface PartNode {
  name: string
  rule: { kind: string } & Record<string, string | number>
  cases?: string[]
  guide?: boolean
  role?: string
  remark?: string
}
export interface PartCase {
  name: string
  kind: string
  at?: string
  [slot: string]: unknown
}
export type SetPlace = Forms['PreviewSet']['place']
export type VolumeWay = VolumesPicture['way']
/** A job's result is what its work answers; a look at a file brings its preview. */
export type JobPicture = Omit<Forms['JobPicture'], 'result'> & {
  result: { label?: string; told?: string[]; surface_id?: number; preview?: FilePreview }
}

/** What may be changed of each thing by itself. */
export interface Changes {
  project: Partial<Forms['ProjectChange']>
  road: Partial<Forms['RoadChange']>
  pi: Partial<Forms['PIChange']>
  pvi: Partial<Forms['PVIChange']>
  variation: Partial<Forms['VariationChange']>
  surface: Partial<Forms['SurfaceChange']>
  survey: Partial<Forms['SurveySetChange']>
  junction: Partial<Forms['JunctionChange']>
  sheets: Partial<Forms['SheetSetChange']>
  bend: Partial<Forms['BendChange']>
  crossfall: Partial<Forms['CrossfallChange']>
  parallel: Partial<Forms['OffsetChange']>
  template: Partial<Forms['TemplateChange']>
  part: Partial<Forms['PartSteps']>
  structure: Partial<Forms['StructureChange']>
}

export const isDesignFinding = (f: Finding | DesignFinding): f is DesignFinding => 'clause' in f
export type VolumeBetween = Forms['VolumeBetween']
