/** Stepping along the road, what stages lack, and the address: what a page comes back to, and what it leaves alone. */
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, createApp, defineComponent, h, nextTick, ref, shallowRef } from 'vue'
import { createMemoryHistory, createRouter, RouterView, type Router } from 'vue-router'
import { useUi } from '@/stores/ui'
import { useAddress } from './useAddress'
import { useStages } from './useStages'
import { useSteps } from './useSteps'
import type { Workbench } from './workbench'

const held = vi.hoisted(() => ({ bench: null as unknown, open: {} as Record<string, unknown> }))
vi.mock('./workbench', () => ({ useWorkbench: () => held.bench }))
vi.mock('./useOpenFindings', () => ({ useOpenFindings: () => held.open }))

beforeEach(() => setActivePinia(createPinia()))

describe('steps along the road', () => {
  function steps(stations: number[] | undefined) {
    const ui = useUi()
    held.bench = {
      design: ref(stations ? { earthwork: { station: stations } } : {}),
      road: ref({ interval: 20 }),
      setMark: (s: number) => (ui.mark = s),
    }
    const { step } = useSteps()
    return (from: number, by: number) => {
      ui.mark = from
      step(by)
      return ui.mark
    }
  }
  it('go from section to section, from between two to the next, and rest at the ends', () => {
    const go = steps([0, 10, 20, 33.5, 40])
    expect([go(10, 1), go(12, 1), go(12, -1), go(10, -1), go(33.5, 1)]).toEqual([20, 20, 10, 0, 40])
    expect([go(40, 1), go(0, -1), go(0, 10), go(40, -10), go(10, 2)]).toEqual([40, 0, 40, 0, 33.5])
  })
  it('are the interval of the road where there are no sections yet', () => {
    const go = steps(undefined)
    expect([go(50, 1), go(50, -2)]).toEqual([70, 10])
  })
})

describe('what a stage lacks', () => {
  const none = { ground: ref(0), unsorted: ref(0), road: ref(0), about: () => 0 }
  function told(bench: Record<string, unknown>, open: Record<string, unknown> = {}) {
    held.open = { ...none, ...open }
    held.bench = {
      design: ref(null),
      surface: ref(null),
      problems: ref({}),
      template: ref(null),
      sheets: ref(null),
      road: ref(null),
      junctions: ref([]),
      ...bench,
    }
    return Object.fromEntries(useStages().states.value.map((s) => [s.id, [s.state, s.lacks] as const]))
  }
  const whole = {
    pis: [{ radius: 0 }, { radius: 300 }, { radius: 0 }],
    levels: {},
    earthwork: { unknown: 0 },
  }
  const full = { design: ref(whole), surface: ref({ sources: [{}] }), template: ref({}), sheets: ref({}) }

  it('is everything in an empty project, in words', () => {
    const t = told({})
    expect(Object.values(t).map(([state]) => state)).toEqual(Array(8).fill('empty'))
    expect([t.ground![1], t.levels![1]]).toEqual(['There is no ground yet: bring in survey points.', 'There is no profile yet.'])
  })
  it('is nothing but junctions where all is there', () => {
    const t = told(full)
    expect(
      Object.entries(t)
        .filter(([, [state]]) => state !== 'full')
        .map(([id]) => id),
    ).toEqual(['junctions'])
    const junction = { problems: [], findings: [] as { sentence: string }[] }
    expect(told({ ...full, junctions: ref([junction]) }).junctions).toEqual(['full', ''])
    const broken = { ...junction, problems: ['A radius of 90 m does not fit.'] }
    expect(told({ ...full, junctions: ref([junction, broken]) }).junctions).toEqual(['half', 'A radius of 90 m does not fit.'])
  })
  it('is told by what is wrong first: a problem, then what is missing, then findings', () => {
    expect(told({ ...full, problems: ref({ line: { sentence: 'They overlap.' } }) }).line).toEqual(['half', 'They overlap.'])
    const bent = { ...whole, pis: [{ radius: 0 }, { radius: 0 }, { radius: 0 }] }
    expect(told({ ...full, design: ref(bent) }).line).toEqual(['half', 'Some PIs have no radius.'])
    const open = { ground: ref(2), unsorted: ref(1), road: ref(3), about: (kind: string) => (kind === 'pi' ? 1 : 0) }
    const t = told(full, open)
    expect([t.line, t.levels, t.road]).toEqual([
      ['half', '1 finding is open.'],
      ['full', ''],
      ['half', '3 findings are open.'],
    ])
    expect(t.ground).toEqual(['half', '2 findings are open. 1 layer has no role.'])
    const off = { ...whole, earthwork: { unknown: 4 } }
    expect(told({ ...full, design: ref(off) }).earthwork![0]).toBe('half')
  })
})

describe('the address', () => {
  let router: Router
  async function open(at: string) {
    const bench = {
      projectId: 3,
      project: shallowRef({
        name: 'Project',
        roads: [
          { id: 7, name: 'Main' },
          { id: 8, name: 'Side' },
        ],
      }),
    }
    const road = computed(() => bench.project.value.roads.find((r) => r.id === useUi().roadId))
    const Bench = defineComponent({
      setup() {
        useAddress({ ...bench, road } as unknown as Workbench)
        return () => h('div')
      },
    })
    router = createRouter({
      history: createMemoryHistory(),
      routes: [
        { path: '/', component: { render: () => h('p') } },
        { path: '/projects/:id/:stage?', name: 'workbench', component: Bench },
      ],
    })
    await router.push(at)
    createApp({ render: () => h(RouterView) })
      .use(router)
      .mount(document.createElement('div'))
    await router.isReady()
    await nextTick()
    return useUi()
  }
  const settled = (address: string) => vi.waitFor(() => expect(router.currentRoute.value.fullPath).toBe(address), { timeout: 3000 })

  it('brings stage, road, mark, range and view back', async () => {
    const ui = await open('/projects/3/levels?road=8&at=120.5&range=100~300&view=long')
    expect([ui.stage, ui.roadId, ui.mark, ui.range, ui.solo]).toEqual(['levels', 8, 120.5, [100, 300], 'long'])
  })
  it('takes what cannot be as not said', async () => {
    const ui = await open('/projects/3/nonsense?at=abc&range=9~5&view=moon&road=x')
    expect([ui.stage, ui.mark, ui.range, ui.solo, ui.roadId]).toEqual(['ground', 0, null, null, null])
    await settled('/projects/3/ground')
  })
  it('follows what is done: a stage is a step that Back takes back, a mark is none', async () => {
    const ui = await open('/projects/3/line')
    ui.roadId = 7
    ui.stage = 'levels'
    await settled('/projects/3/levels')
    ui.mark = 250.12345
    await settled('/projects/3/levels?at=250.123')
    ui.roadId = 8
    await settled('/projects/3/levels?road=8&at=250.123')
    router.back()
    await vi.waitFor(() => expect(ui.stage).toBe('line'))
  })
  it('has a panel as a step, which Back closes', async () => {
    const ui = await open('/projects/3/line')
    ui.panel = 'ledger'
    await settled('/projects/3/line?over=ledger')
    router.back()
    await vi.waitFor(() => expect(ui.panel).toBe(''))
  })
  it('never brings one back who has left for another page', async () => {
    vi.useFakeTimers()
    const ui = await open('/projects/3/line')
    ui.mark = 99 // written into the address a moment later
    await router.push('/')
    await vi.runAllTimersAsync()
    expect(router.currentRoute.value.fullPath).toBe('/')
    vi.useRealTimers()
  })
})
