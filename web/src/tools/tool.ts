/** What a tool is. One object a tool, in its own file; the lists in `plan/`, `ground/` and `long/` say which there are. */
import type { StageId } from '@/stores/ui'

/** The pointer over a view: px from its corner, and what is held beside it. */
export interface Press {
  x: number
  y: number
  button: number
  ctrl: boolean
  shift: boolean
}

/** A place in plan, m. */
export interface PlanPlace {
  e: number
  n: number
}
/** A place on the long section: station and level, m. */
export interface LongPlace {
  s: number
  z: number
}

/** A place on the part bench: offset + right, and level, m. */
export interface BenchPlace {
  o: number
  z: number
}

export interface Tool<P> {
  id: string
  view: 'plan' | 'long' | 'bench'
  stage: StageId
  /** on its button; a tool without one is taken from elsewhere */
  name: string
  /** what to do now, in a sentence over the view */
  hint: string
  /** it only looks, so a viewer has it too */
  looks?: boolean
  /** whether it can be taken now */
  ready?: () => boolean
  /** where a click would land: what is caught there */
  aim?: (at: P, press: Press) => P
  /** a click; without one the view's own click goes on while the tool is in hand */
  click?: (at: P, press: Press) => unknown
  /** Enter or a double click */
  finish?: () => unknown
  /** Ctrl Z or Backspace: the last point back; whether there was one */
  takeBack?: () => boolean
  /** Escape: let go of what is drawn; whether there was anything */
  cancel?: () => boolean
  /** what is being drawn, in the view's own coordinates */
  drawn?: () => readonly P[]
}

/** Values as a person would type them: whole millimetres. */
export const tidy = (v: number, decimals = 3) => Math.round(v * 10 ** decimals) / 10 ** decimals
