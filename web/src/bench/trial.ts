/** A trial: the road as it would be with unsaved values, while something is dragged or nudged; and the roads that hang on it. */
import { tryOnScopeDispose, useDebounceFn } from '@vueuse/core'
import { ref, shallowRef, type Ref } from 'vue'
import { api, isBroken, type AppError } from '@/api/client'
import type { JunctionRow, LightRoad, RoadDesign, RoadShape, TrialValues } from '@/api/types'
import { newest } from '@/composables/newest'
import { useLook } from '@/stores/look'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'

interface Asked {
  path: string
  body: unknown
}
type Lead = Partial<Pick<RoadDesign, 'pis' | 'line' | 'levels' | 'pvis'>>
const AHEAD = 16 // ms, or as long as a picture takes, that the shape has before what leads is drawn without it: two cost more than one
const LONGEST = 80 // ms that what follows from a shape waits to be drawn
const FOUND = 400 // ms from findings told to findings asked for while something is dragged: it should feel its shape first
const REST = 200 // ms that a hand rests until all that hangs on its place is asked for

/** Something that answers tell besides the shape: not two at once, which would only slow each other down, and some time apart. */
function paced(apart: number) {
  const telling = new Set<object>() // answers
  let toldFor: TrialValues | null = null
  let last = -Infinity
  return {
    due: (now: number, resting: boolean) => !telling.size && (resting || now - last >= apart),
    begin: (answer: object, values: TrialValues) => void (telling.add(answer), (toldFor = values)),
    end: (answer: object) => void (telling.delete(answer) && (last = performance.now())),
    behind: (values: TrialValues) => values !== toldFor && !telling.size,
    forget: () => void (telling.clear(), (toldFor = null)),
  }
}

/** How long a picture takes from a change to its end, ms; as the last ones did. */
function pictureTime() {
  const channel = new MessageChannel()
  let began = 0
  let usual = 0
  channel.port1.onmessage = () => {
    usual = 0.7 * usual + 0.3 * Math.min(performance.now() - began, 200)
    began = 0
  }
  return {
    usual: () => usual,
    begin() {
      if (began) return
      began = performance.now()
      requestAnimationFrame(() => channel.port2.postMessage(0))
    },
    close: () => channel.port1.close(),
  }
}

export function useTrial(
  trial: Ref<RoadDesign | null>,
  saved: Ref<RoadDesign | null>,
  near: { askNear: (path: string, body: unknown, idle: () => boolean) => void; endNear: () => void },
) {
  const ui = useUi()
  const look = useLook()
  const told = useTold()
  let drags = 0 // ended ones
  let streams = 0 // answers begun; only the newest one's further lines are shown
  let shown = '' // the findings that are shown, as they came
  const picture = pictureTime()
  tryOnScopeDispose(picture.close)
  let newestAsked: TrialValues | null = null // of this drag
  let rested: TrialValues | null = null
  /** findings; roads that hang on this one; junctions */
  const besides = { judged: paced(FOUND), followed: paced(0), joined: paced(0) }
  const behind = () => newestAsked !== null && Object.values(besides).some((b) => b.behind(newestAsked!))
  /** The last place of a drag is told whole, once it rests there, which is while nothing is asked; never an older one, which would be
   * drawn over it. */
  const whenResting = useDebounceFn(() => {
    if (!behind() || !trials.idle()) return
    rested = newestAsked
    trials.ask(newestAsked!)
  }, REST)
  const trials = newest<TrialValues, { shape: RoadShape; more: AsyncGenerator<string>; asked: Asked }>(
    async (values, signal) => {
      const answer = {}
      const tells: Record<string, boolean> = {}
      for (const [name, beside] of Object.entries(besides)) {
        tells[name] = beside.due(performance.now(), values === rested)
        if (tells[name]) beside.begin(answer, values)
        else void whenResting()
      }
      const body = { ...values, mark: ui.mark, key: saved.value?.key, outline_only: !look.planNear, ...tells }
      const more = toldOf(api.lines(`/roads/${ui.roadId}/trial`, body, signal), answer)
      const lead = JSON.parse((await more.next()).value as string) as Lead
      const ahead = setTimeout(() => !signal.aborted && leads(lead), Math.max(AHEAD, picture.usual()))
      try {
        const shape = { ...lead, ...(JSON.parse((await more.next()).value as string) as RoadShape) }
        return { shape, more, asked: { path: `/roads/${ui.roadId}/trial`, body } }
      } finally {
        clearTimeout(ahead)
      }
    },
    ({ shape, more, asked: by }) => {
      // a trial that leaves the line alone is sent without it; findings follow, and those shown stay until then
      const { pis, line, ground } = saved.value!
      const { findings, departures } = trial.value ?? saved.value!
      trial.value = { findings, departures, ...(shape.pis ? {} : { pis, line, ground }), ...shape } as RoadDesign
      picture.begin()
      showTold()
      judge(more, by, drags, ++streams).catch(failed)
      if (behind()) void whenResting()
    },
    failed,
  )
  /** What the hand moves goes ahead of what follows from it; not over a place that failed, which says why until the next. */
  function leads(lead: Lead) {
    const before = trial.value ?? saved.value
    if (before && Object.keys(lead).length && !Object.keys(before.problems).length) trial.value = { ...before, ...lead }
  }
  /** Lines of an answer, and afterwards what rests while they came. */
  async function* toldOf(lines: AsyncGenerator<string>, answer: object): AsyncGenerator<string> {
    try {
      for await (const line of lines) {
        if (line.startsWith('{"findings":')) besides.judged.end(answer) // what the same answer tells after them takes its time
        if (line.startsWith('{"followed":')) besides.followed.end(answer)
        else yield line
      }
    } finally {
      for (const beside of Object.values(besides)) beside.end(answer)
      if (behind()) void whenResting()
    }
  }
  /** Roads that hang on the dragged one, as they would be. */
  const triedOthers = shallowRef<Map<number, LightRoad>>(new Map())
  /** Junctions that the drag changes, as they would be. */
  const triedJunctions = shallowRef<Map<number, JunctionRow>>(new Map())
  const joined = ref(0) // showings of junctions
  const toldBy = new Map<string, number>() // dependent or junction -> the answer that told it last
  const held = { findings: '', roads: new Map<number, LightRoad>(), junctions: new Map<number, JunctionRow>() }
  let showing: ReturnType<typeof setTimeout> | undefined
  /** What follows from a shape waits for the next one, as long as two pictures take, longer where that is on its way; both are drawn in
   * one picture. */
  function showSoon() {
    const wait = () => setTimeout(showTold, LONGEST)
    showing ||= setTimeout(() => (trials.idle() ? showTold() : (showing = wait())), Math.min(2 * picture.usual(), LONGEST))
  }
  function showTold() {
    clearTimeout(showing)
    showing = undefined
    if (!trial.value) return
    const { findings: text, roads, junctions } = held
    if (text && text !== shown) {
      const { findings, departures, problems } = JSON.parse(text) as Pick<RoadDesign, 'findings' | 'departures' | 'problems'>
      trial.value = { ...trial.value, findings, departures, problems: { ...trial.value.problems, ...problems } }
      shown = text
    }
    if (roads.size) triedOthers.value = new Map([...triedOthers.value, ...roads])
    if (junctions.size) {
      triedJunctions.value = new Map([...triedJunctions.value, ...junctions])
      joined.value++
    }
    forgetTold()
  }
  function forgetTold() {
    held.findings = ''
    held.roads.clear()
    held.junctions.clear()
  }
  async function judge(more: AsyncGenerator<string>, by: Asked, drag: number, stream: number) {
    let toldJunction = false
    for await (const text of more) {
      if (!text || drag !== drags) continue
      const [which, of] = /^{"(dependent|junction)":\d+/.exec(text) ?? []
      if (which) {
        if (stream < (toldBy.get(which) ?? 0)) continue
        toldBy.set(which, stream) // what comes late is shown until something newer comes
      }
      if (of === 'dependent') {
        const road = JSON.parse(text) as LightRoad
        held.roads.set(road.road_id, road)
      } else if (of === 'junction') {
        const row = JSON.parse(text) as JunctionRow
        held.junctions.set(row.id, row)
        toldJunction = true
      } else held.findings = text
      showSoon()
    }
    if (trials.idle()) showTold() // it is all there, and nothing on its way to be drawn with
    if (toldJunction && drag === drags) near.askNear(by.path, by.body, trials.idle)
  }
  function failed(error: unknown) {
    if ((error as Error).name !== 'AbortError' && !isBroken(error as AppError))
      told.tell((error as AppError).message, { kind: 'wrong', seconds: 4 })
  }
  function tryOut(values: TrialValues) {
    if (ui.roadId === null) return
    newestAsked = values
    trials.ask(values)
  }
  function endTrial() {
    trials.cancel()
    near.endNear()
    newestAsked = rested = null
    for (const beside of Object.values(besides)) beside.forget()
    trial.value = null
    triedOthers.value = new Map()
    triedJunctions.value = new Map()
    toldBy.clear()
    forgetTold()
    shown = ''
    drags++
  }
  return { triedOthers, triedJunctions, joined, tryOut, endTrial }
}
