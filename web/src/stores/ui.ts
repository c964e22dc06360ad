/** What the person is doing: active road, reading mark, marked range, selection, tool, arrangement. */
import { useLocalStorage } from '@vueuse/core'
import type { VolumeWay } from '@/api/types'
import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'
import type { GroundPick } from '@/api/types'
import type { TerrainColours } from '@/canvas/plan/terrain'

export type StageId = 'ground' | 'line' | 'levels' | 'sections' | 'road' | 'junctions' | 'earthwork' | 'sheets'
export type ViewId = 'plan' | 'long' | 'cross' | 'model' | 'table' | 'crossfall'
export type Selection = { kind: 'pi'; index: number; id: number | null } | { kind: 'pvi'; id: number } | { kind: 'part'; id: string } | { kind: 'ground'; pick: GroundPick } | { kind: 'path'; index: number } | null

export const STAGES: { id: StageId; name: string; views: ViewId[] }[] = [
  { id: 'ground', name: 'Ground', views: ['plan'] },
  { id: 'line', name: 'Line', views: ['plan', 'table'] },
  { id: 'levels', name: 'Levels', views: ['plan', 'cross', 'long'] },
  { id: 'sections', name: 'Sections', views: ['cross', 'long'] },
  { id: 'road', name: 'Road', views: ['plan', 'cross', 'model'] },
  { id: 'junctions', name: 'Junctions', views: ['plan', 'model'] },
  { id: 'earthwork', name: 'Earthwork', views: ['plan', 'cross', 'table'] },
  { id: 'sheets', name: 'Sheets', views: ['plan', 'table'] },
]

export const useUi = defineStore('ui', () => {
  const stage = ref<StageId>('ground')
  const roadId = ref<number | null>(null)
  /** the surface looked at in the ground stage; null follows the road's ground */
  const surfaceId = ref<number | null>(null)
  const mark = ref(0)
  const range = ref<[number, number] | null>(null)
  const volumeWay = ref<VolumeWay>('bends')
  const selection = ref<Selection>(null)
  const tool = ref('')
  const solo = ref<ViewId | null>(null)
  const activeView = ref<ViewId>('plan')
  const shown = ref({ heights: true, contours: true, triangles: false, breaklines: true, mapping: true, points: true, flow: false, spots: false, road: true })
  const terrainColours = ref<TerrainColours>('heights')
  /** layers drawn faintly: of the plan by their name here, received ones by `mapping/` and their layer */
  const dimmed = ref<Record<string, boolean>>({})
  /** received layers that are not drawn */
  const hiddenLayers = ref<Record<string, boolean>>({})
  /** how this person likes contours; kept in the browser */
  const contours = useLocalStorage('ivory.contours', { interval: 1, every: 5, minor: '#c9b794', major: '#9c7f55', rounded: false, labelStrong: false, labelDecimals: 0, labelSize: 11 }, { mergeDefaults: true })
  /** the plan is near enough to show all edge lines */
  const planNear = ref(true)
  /** ground beside the line and of other surfaces, on the long section */
  const longGround = ref<{ offsets: number[]; surfaces: number[] }>({ offsets: [], surfaces: [] })
  /** how a PVI is dragged */
  const pviDrag = ref<'free' | 'up' | 'along' | 'in' | 'out'>('free')
  /** the lane of sight distances over the long section */
  const sightLane = ref(false)
  /** which of its two lower views the stage 'Line' shows */
  const lower = ref<'table' | 'crossfall'>('table')
  /** how the plan's line is annotated; kept in the browser, saved styles are the project's */
  const annotation = useLocalStorage('ivory.annotation', { scale: 2500, tick: 20, text: 100, points: true, elements: true, size: 2.5, away: 3 }, { mergeDefaults: true })
  /** a line drawn over the plan before it is taken: its course, and the points it is to follow */
  const proposal = shallowRef<{ line: [number, number][]; points: [number, number][]; leftOut: boolean[] } | null>(null)
  /** lines drawn in plan catch what was received */
  const folds = useLocalStorage<Record<string, boolean>>('ivory.folds', {}) // groups of the inspector, by heading: open or not
  const snapping = useLocalStorage('ivory.snapping', true)
  const sectionLabels = ref(true)
  const inspectorOpen = ref(true)
  const tableOpen = ref(true)
  const panel = ref<'' | 'find' | 'ledger' | 'keys' | 'members' | 'settings' | 'findings' | 'shelves' | 'reports'>('')
  /** a place clicked on the plan while a panel waits for one; a new object each time */
  const clicked = ref<{ e: number; n: number } | null>(null)
  /** a place the plan is asked to show: easting, northing; a new object each time */
  const goTo = ref<{ e: number; n: number } | null>(null)

  watch(stage, () => {
    tool.value = ''
    solo.value = null
    selection.value = null
    proposal.value = null
  })
  return {
    stage, roadId, surfaceId, mark, range, volumeWay, selection, tool, solo, activeView, shown, terrainColours, dimmed, hiddenLayers, contours, planNear, longGround, pviDrag, sightLane, lower, annotation, proposal, folds, snapping, sectionLabels, inspectorOpen, tableOpen, panel, clicked, goTo,
  }
})
