/** One drag for all views: presses in, values out; what lies under the pointer; what is let go of by Escape. */
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { makeBursts } from '@/composables/burst'
import { useUi } from '@/stores/ui'
import { makeDesk } from './desk'
import { arrowOf, makeDrag, type Grip } from './drag'
import type { Tool } from './tool'
import { useUnder } from './under'

const at = (x: number, y = 0, more: Partial<{ button: number; ctrl: boolean; shift: boolean }> = {}) => ({
  x,
  y,
  button: 0,
  ctrl: false,
  shift: false,
  ...more,
})

function setUp() {
  const log: unknown[] = []
  const grip: Grip<number, number> = {
    id: 'g',
    to: (x) => 10 * x,
    tryOut: (v) => log.push(['try', v]),
    save: (v) => log.push(['save', v]),
    back: () => log.push('back'),
  }
  const drag = makeDrag<number>({
    place: (p) => p.x,
    pan: (dx, dy) => log.push(['pan', dx, dy]),
    click: (p, _press, on) => log.push(['click', p, on?.id ?? null]),
    over: () => log.push('over'),
  })
  return { log, grip, drag }
}

describe('a drag', () => {
  it('tries what is held out at every move, beyond a click, and saves the last once', async () => {
    const { log, grip, drag } = setUp()
    drag.press(at(0), grip)
    drag.move(at(3)) // may still be a click
    drag.move(at(5))
    drag.move(at(1)) // back over where it began: still a drag
    await drag.up(at(1))
    expect(log).toEqual([['try', 50], ['try', 10], 'over', ['save', 10]])
    expect(drag.move(at(9))).toBe(false)
  })
  it('clicks on a handle that was not moved, and on the empty view', async () => {
    const { log, grip, drag } = setUp()
    drag.press(at(7), grip)
    await drag.up(at(8))
    drag.press(at(2), null)
    await drag.up(at(2))
    expect(log).toEqual(['over', ['click', 8, 'g'], 'over', ['click', 2, null]])
  })
  it('pans the empty view, and does not click then', async () => {
    const { log, drag } = setUp()
    drag.press(at(0), null)
    drag.move(at(3, 1))
    drag.move(at(6, 2))
    drag.move(at(7, 2))
    await drag.up(at(7, 2))
    expect(log).toEqual([['pan', 6, 2], ['pan', 1, 0], 'over'])
  })
  it('gives back what is held, and a later release saves nothing', async () => {
    const { log, grip, drag } = setUp()
    drag.press(at(0), grip)
    drag.move(at(9))
    expect(drag.drop()).toBe(true)
    await drag.up(at(9))
    expect(log).toEqual([['try', 90], 'back', 'over', 'over'])
    expect(drag.drop()).toBe(false)
  })
  it('leaves the right button alone, and the middle one only pans', async () => {
    const { log, grip, drag } = setUp()
    drag.press(at(0, 0, { button: 2 }), grip)
    expect(drag.move(at(50))).toBe(false)
    drag.press(at(0, 0, { button: 1 }), grip)
    drag.move(at(50))
    await drag.up(at(50))
    expect(log.filter((l) => l !== 'over')).toEqual([['pan', 50, 0]])
  })
  it('knows arrows from other keys', () => {
    expect([arrowOf('ArrowUp'), arrowOf('ArrowLeft'), arrowOf('a')]).toEqual([[0, 1], [-1, 0], null])
  })
})

describe('what lies under the pointer', () => {
  it('chooses the nearest at once, and lists several', () => {
    const chosen: string[] = []
    const thing = (id: string, away: number) => ({ id, words: id, away, choose: () => chosen.push(id) })
    const under = useUnder()
    expect(under.choose(5, 6, [thing('b', 4), thing('a', 1)])).toBe(true)
    expect(chosen).toEqual(['a'])
    expect(under.list.value!.things.map((t) => t.id)).toEqual(['a', 'b'])
    expect(under.drop()).toBe(true)
    expect(under.choose(5, 6, [thing('c', 2)])).toBe(true)
    expect([chosen.at(-1), under.list.value]).toEqual(['c', null])
    expect(under.choose(5, 6, [])).toBe(false)
  })
})

describe('the desk', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('lets go of one thing at a time: nudges, drags, what is drawn, the tool, what is chosen', () => {
    vi.useFakeTimers()
    effectScope().run(() => {
      const ui = useUi()
      const bursts = makeBursts()
      const ended = vi.fn()
      const desk = makeDesk(bursts, ended)
      let points = 2,
        dragged = true
      const tool: Tool<unknown> = {
        id: 't',
        view: 'plan',
        stage: 'ground',
        name: 'T',
        hint: '',
        cancel: () => points > 0 && ((points = 0), true),
      }
      desk.lay([tool])
      desk.holds(() => dragged && !(dragged = false))
      ui.tool = 't'
      ui.selection = { kind: 'pvi', id: 3 }
      bursts.press({ id: 'x', tryOut: () => {}, save: async () => {} }, () => 1)
      const state = () => [bursts.drop(), dragged, points, ui.tool, ui.selection?.kind]
      desk.letGo()
      expect(state()).toEqual([false, true, 2, 't', 'pvi'])
      desk.letGo()
      expect(state()).toEqual([false, false, 2, 't', 'pvi'])
      expect(ended).toHaveBeenCalledTimes(2)
      desk.letGo()
      expect(state()).toEqual([false, false, 0, 't', 'pvi'])
      desk.letGo()
      expect(state()).toEqual([false, false, 0, '', 'pvi'])
      desk.letGo()
      expect(ui.selection).toBeNull()
    })
    vi.useRealTimers()
  })
  it('has a tool in hand only in its stage and its view', () => {
    effectScope().run(() => {
      const ui = useUi()
      const desk = makeDesk(makeBursts(), () => {})
      const away = desk.lay([{ id: 't', view: 'long', stage: 'levels', name: 'T', hint: '' } as Tool<unknown>])
      ui.tool = 't'
      expect(desk.inHand.value).toBeNull()
      ui.stage = 'levels'
      ui.tool = 't'
      expect([desk.inView('long')?.id, desk.inView('plan')]).toEqual(['t', null])
      away()
      expect(desk.inHand.value).toBeNull()
    })
  })
})
