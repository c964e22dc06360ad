/** What the person is doing: stage, active road, reading mark, marked range, selection, tool, what lies over the page. */
import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'
import type { GroundPick } from '@/api/types'

export type StageId = 'ground' | 'line' | 'levels' | 'sections' | 'road' | 'junctions' | 'earthwork' | 'sheets'
export type ViewId = 'plan' | 'long' | 'cross' | 'model' | 'table' | 'crossfall' | 'bench' | 'along'
export type Selection =
  | { kind: 'pi'; index: number; id: number | null }
  | { kind: 'pvi'; id: number }
  | { kind: 'part'; id: string }
  | { kind: 'ground'; pick: GroundPick }
  | { kind: 'path'; index: number }
  | { kind: 'along'; id: number }
  | { kind: 'node'; side: 'left' | 'right'; node: string }
  | null
export type PanelId = '' | 'find' | 'ledger' | 'keys' | 'members' | 'settings' | 'findings' | 'shelves' | 'reports' | 'volumes'

export const STAGES: { id: StageId; name: string; views: ViewId[] }[] = [
  { id: 'ground', name: 'Ground', views: ['plan'] },
  { id: 'line', name: 'Line', views: ['plan', 'table'] },
  { id: 'levels', name: 'Levels', views: ['plan', 'cross', 'long'] },
  { id: 'sections', name: 'Sections', views: ['bench'] },
  { id: 'road', name: 'Road', views: ['plan', 'cross', 'model'] },
  { id: 'junctions', name: 'Junctions', views: ['plan', 'model', 'long'] },
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
  const selection = ref<Selection>(null)
  /** the tool in hand, by its id; empty: choosing and moving */
  const tool = ref('')
  const solo = ref<ViewId | null>(null)
  const activeView = ref<ViewId>('plan')
  /** a line drawn over the plan before it is taken: its course, and the points it is to follow */
  const proposal = shallowRef<{ line: [number, number][]; points: [number, number][]; leftOut: boolean[] } | null>(null)
  /** how the line's annotation came out on the plan: texts without room, and how high one is on screen */
  const annotated = ref<{ dropped: number; px: number } | null>(null)
  const panel = ref<PanelId>('')
  /** a place clicked on the plan while a panel waits for one; a new object each time */
  const clicked = ref<{ e: number; n: number } | null>(null)
  /** a place the plan is asked to show: easting, northing, and how much around it at most, m, or all of an extent; new each time */
  const goTo = ref<{ e: number; n: number; span?: number; extent?: [number, number, number, number] } | null>(null)

  // at once, so that whoever sets the stage may go on with a tool, a selection or a view alone
  watch(
    stage,
    () => {
      tool.value = ''
      solo.value = null
      selection.value = null
      proposal.value = null
    },
    { flush: 'sync' },
  )
  return { stage, roadId, surfaceId, mark, range, selection, tool, solo, activeView, proposal, annotated, panel, clicked, goTo }
})
