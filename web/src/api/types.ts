/** What the server answers. Lengths m, grades and slopes m/m, offsets + right, radii signed + right. */

export type Role = 'viewer' | 'editor' | 'owner'

export interface Parameter {
  name: string
  label: string
  kind: 'length' | 'percent' | 'one_in' | 'height' | 'choice'
  value: number | string
  usual: number | string
  least: number
  greatest: number
  choices: string[]
  remark: string
}
export interface PlacedPart { id: string; part: string; label: string; parameters: Parameter[] }
export interface Template { id: number; name: string; revision: number; left: PlacedPart[]; right: PlacedPart[] }
export type GroundRole = 'spot' | 'breakline' | 'outer' | 'hole' | 'background' | 'ignore' | 'unsorted'
export interface SurveyLayer { type: string; code: string; key: string; count: number; vertices: number; levels: [number, number] | null; role: GroundRole; ruled: boolean }
export interface SortingRule { pattern: string; type: string; role: GroundRole | 'line start' | 'line end' | 'line close' }
export interface GroundEdit { do: string; survey?: number; point?: number; points?: number[]; line?: number; vertex?: number; level?: number; spacing?: number | null; to?: [number, number, number]; vertices?: [number, number, number][]; at?: [number, number] }
export interface GroundFinding extends Finding { key: string; points: [number, number][]; level: number | null; ways: ('leave_out' | 'set_level' | 'change_over' | 'keep')[]; remark?: string; by?: string }
export interface GroundFindings { open: GroundFinding[]; kept: GroundFinding[]; problem: string | null }
export interface ShelfRow {
  id: string; shelf: 'Received' | 'Worked' | 'Issued'; kind: 'file' | 'survey' | 'surface' | 'template' | 'road' | 'sheets' | 'issue'; row: number; revision: number; name: string; told: string
  made_from: string[]; made_into: string[]; sha256?: string; files?: { id: number; name: string; size: number }[]
}
export interface GroundPick { kind: 'point' | 'vertex'; survey: number; point?: number; line?: number; vertex?: number; vertices?: number; spacing?: number | null; place: [number, number, number | null] }
export interface ContourLabel { e: number; n: number; level: number; azimuth: number }
export interface Water { ponds: { level: number; depth: number; area: number; volume: number; place: [number, number] }[]; area: number; rings: [number, number][][] }
export interface ExchangeDocument { id: number; name: string; version: number; by: string; at: string; size: number; remark: string; state: 'new' | 'taken' | 'newer' }
export interface ExchangeDifference { version: number; points_before: number; points_now: number; lines_before: number; lines_now: number; gone: number; added: number; levels_changed: number; greatest: number; place: [number, number] | null }
export interface SurveySource {
  id: number; name: string; file_id: number; revision: number; layers: SurveyLayer[]; points: number; breaklines: number; faces: number
  extent: [number, number, number, number]; levels: [number, number]; codes: [string, number][]
}
export interface SurfaceRow {
  id: number; name: string; revision: number; greatest_edge: number | null; live_spacing: number | null; weed_plan: number | null; weed_level: number | null
  fill_area: number | null; key: string; sources: SurveySource[]; edits: GroundEdit[]; answers: Record<string, unknown>; label_paths: [number, number][][]
}
export interface FixedPoint { station: number; level: number; kind: 'exact' | 'above' | 'below'; name: string }
export interface RoadRow {
  id: number; name: string; revision: number; interval: number; start_station: number
  template_id: number | null; surface_id: number | null; speeds: [number, number][]
  course: { kind: 'elements' } | { kind: 'offset'; road: number; offset: number; against?: boolean } | { kind?: undefined }
  ties: Partial<Record<'start' | 'end', { road: number; station: number }>>; mirrored: boolean
  equations: [number, number][]; sight_clearance: number | null; fixed_points: FixedPoint[]; candidates: { id: string; name: string }[]; candidate: string
}
export interface SheetSetRow {
  id: number; name: string; revision: number; road_id: number; paper: 'A1' | 'A3'; scale: number; exaggeration: number
  section_scale: number; section_interval: number; band_interval: number; drawing_number: string; revision_mark: string
}
export interface Settings {
  coordinate_reference: string; chainage_group: number; chainage_word: string; traffic_side: string
  standard: string; design_speed: number; greatest_grade: number; least_k: number
}
export interface Project {
  id: number; name: string; revision: number; role: Role; user: string; settings: Settings
  roles: LineRole[]; roads: RoadRow[]; surfaces: SurfaceRow[]; templates: Template[]; sheet_sets: SheetSetRow[]; sorting_rules: SortingRule[]; annotations: { name: string; scale: number; tick: number; text: number; points: boolean; elements: boolean; size: number; away: number }[]; standards: StandardRow[]
  received: { id: number; name: string; format: string; size: number; sha256: string; by: string; at: string }[]
  ledger: { head: string; undo: string | null; redo: string | null }
}
export interface Finding {
  severity: 'note' | 'doubt' | 'fault'; code: string; sentence: string
  station_from: number | null; station_to: number | null; place: [number, number] | null
}
/** A finding against the design standard. */
export interface DesignFinding extends Finding {
  key: string; clause: string; status: string; why: string; value: number; limit: number; unit: string; about: { kind: 'pi' | 'pvi' | ''; index: number }
  ways: { label: string; kind: 'pi' | 'pvi'; index: number; values: Record<string, number> }[]
  remark?: string; by?: string; accepted?: string
}
export const isDesignFinding = (f: Finding): f is DesignFinding => 'clause' in f
export interface StandardRow { id: string; name: string; source: string; status: string; greatest_speed: number }
export interface PIRow {
  id: number | null; revision: number; easting: number; northing: number; radius: number; spiral_in: number; spiral_out: number
  stations: [number, number] | null; turn: number; held: boolean; straight_held: boolean
}
/** A line through measured points; offsets + right. */
export interface LineFit {
  pis: { easting: number; northing: number; radius?: number; spiral_in?: number; spiral_out?: number }[]
  bends: { turn: number; radius: number; spiral_in: number; spiral_out: number; start: number; end: number; rms: number; greatest: number; held: string[] }[]
  line: [number, number][]; points: [number, number][]; station: number[]; offset: number[]; left_out: boolean[]; rms: number; length: number; count: number; doubts: (Finding & { bend: number })[]
}
export interface LineElement {
  kind: 'Line' | 'Curve' | 'Spiral'; start: number; end: number; length: number; radius_start: number | null; radius_end: number | null
  azimuth_deg: number; easting: number; northing: number; pi: number; parameter: number | null
}
/** points: station, easting, northing, azimuth, curvature */
export interface Line { start: number; end: number; elements: LineElement[]; points: [number, number, number, number, number][] }
export type Anchor = 'station' | 'place' | 'tangent' | 'start' | 'end'
export interface PVIRow {
  id: number; revision: number; anchor: Anchor; tangent_point: string; pi: number | null; ahead: number; station: number; elevation: number
  half_in: number; half_out: number; circular: boolean; circle_differs: number; length: number; grade_in: number | null; grade_out: number | null; k: number | null; kind: 'crest' | 'sag'
}
/** points: station, level, grade */
export interface Levels { start: number; end: number; points: [number, number, number][]; turning: [number, number][] }
/** cm: east and north of the origin, in whole centimetres, one after the other */
export interface Edges { origin: [number, number]; lines: { side: string; role: string; first: number; cm: number[] }[] }
export interface Earthwork {
  station: number[]; cut_area: number[]; fill_area: number[]; cumulative_cut: number[]; cumulative_fill: number[]
  cut: number; fill: number; unknown: number; layers: { material: string; volume: number }[]
}
export interface SectionNode { name: string; role: string; guide: boolean; below: boolean; offset: number; level: number }
export interface SectionSide {
  side: 'left' | 'right'; nodes: SectionNode[]; links: { from: number; to: number; width: number; slope: number | null }[]
  formation: number[]; layers: { material: string; points: [number, number][] }[]; unmet: string[]; reach: number | null; toe: number | null
}
export interface Section {
  station: number; level: number; grade: number; easting: number; northing: number; azimuth: number; curvature: number
  ground: [number, number | null][]; cut: number; fill: number; layers: { material: string; area: number }[]
  sides: SectionSide[]; findings: Finding[]
}
export interface Problem { code: string; sentence: string; where: Record<string, unknown> }
/** A line on the long section; `line` is station, level and grade as the server found them. */
export interface Guide {
  id: string; kind: 'grade' | 'points' | 'parallel'; station?: number; level?: number; grade?: number; first?: [number, number]; second?: [number, number]; of?: string; rise?: number
  hidden?: boolean; line: [number, number, number]
}
/** A bend with its full crossfall, and where its outer half is level and full; places are stations, rates ratios. */
export interface TurnedBend { pi: number; pi_id: number | null; turn: number; rate: number; level_in: number; full_in: number; full_out: number; level_out: number; asked: number | null; pinned: boolean }
/** Left and right crossfall, outward, + rises; linear between the stations. */
export interface Crossfall { off: boolean; axis: 'centre' | 'inner' | 'outer'; share: number | null; station: number[]; left: number[]; right: number[]; normal: number[]; half_width: number; bends: TurnedBend[] }
export interface RoadDesign {
  key: string; road_id: number; pis: PIRow[]; line: Line | null; ground: [number, number | null][]; levels: Levels | null; pvis: PVIRow[]; pvi_rows: [number, number][]
  crossfall: Crossfall | null; edges: Edges; earthwork: Earthwork | null; section: Section | null; findings: (Finding | DesignFinding)[]; departures: DesignFinding[]; guides: Guide[]; crossings: [string, string, number, number][]; guides_problem?: string; problems: Record<string, Problem>
  limits: { design_speed: number; greatest_grade: number; least_k: number }
}
export interface VolumeRow {
  station: number; cut_area: number; fill_area: number; cut: number; fill: number
  cumulative_cut: number; cumulative_fill: number; balance: number; unmet: boolean
}
export type VolumeWay = 'bends' | 'plain' | 'prismoidal'
export interface VolumesPicture { rows: VolumeRow[]; totals: Partial<Record<VolumeWay, { cut: number; fill: number }>>; way: VolumeWay; layers: { material: string; volume: number }[] }
export interface JobPicture {
  id: number; title: string; state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled'; done: number; total: number; message: string
  result: { label?: string; told?: string[]; surface_id?: number; preview?: FilePreview }
}
export interface Acted { label: string; told: string[]; job?: JobPicture; road_id?: number; surface_id?: number }
export interface Layout { delimiter: string; delimiter_name: string; decimal_comma: boolean; header: boolean; columns: Record<string, number>; names: string[] }
export type SetPlace = 'join' | 'apart' | 'leave'
export interface WayOut { label: string; options: Record<string, unknown> }
export interface FilePreview {
  name: string; format: string; size: number; reading: Partial<Layout> & { unit?: string; alignments?: number; reference?: string; tolerance?: number; cell?: [number, number]; swapped?: boolean; factor?: number; east?: number }; rows: string[]
  sets: (Omit<SurveySource, 'id' | 'file_id' | 'revision'> & { plan: [number, number, number][]; place: SetPlace })[]; findings: (Finding & { way?: WayOut })[]; far: boolean; error: string | null; reference: string | null
}
export interface SheetFrame { number: number; title: string; from: number; to: number; corners: [number, number][] }
export interface SheetList { frames: SheetFrame[]; section_sheets: number; left_out: string[] }

/** A road as it is drawn beside the active one. */
export interface LightRoad { road_id: number; name: string; points: [number, number][]; problems: Record<string, string> }

/** What a line along the road is, and how it is drawn in plan; as `core/section/roles.py` says. */
export interface LineRole { name: string; about: string; screen: { colour: string; width: number; dash: number[]; fill: string } | null; below: boolean; outline: boolean }
