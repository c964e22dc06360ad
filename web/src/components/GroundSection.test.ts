import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it } from 'vitest'
import type { SectionCut } from '@/tools/ground'
import GroundSection from './GroundSection.vue'

beforeEach(() => setActivePinia(createPinia()))
const ground: [number, number | null][] = [[0, 50], [20, 51], [40, 52]] // prettier-ignore
const show = (cut: Partial<SectionCut>) =>
  mount(GroundSection, {
    props: { cut: { points: ground, ...cut } as SectionCut, colour: (m: string) => (m === 'base' ? '#111111' : '#222222') },
  })

it('draws the ground alone, and says how long and how much higher than wide', () => {
  const at = show({})
  expect(at.text()).toContain('Section of the ground')
  expect(at.text()).toContain('40.0 m long')
  expect(at.findAll('path.line')).toHaveLength(1)
  expect(at.find('[data-test=formation-line]').exists()).toBe(false)
  expect(at.findAll('[data-test=cut-layer]')).toHaveLength(0)
})

it('draws what is built between: layers in the colours of their materials, formation with its gaps, the finished ground', () => {
  const at = show({
    finished: [[0, 50], [10, 54], [30, 54], [40, 52]],
    formation: [[10, 53.5], [14, 53.5], [16, null], [20, 53.4], [30, 53.4]],
    layers: [
      { material: 'base', points: [[10, 54], [30, 54], [30, 53.7], [10, 53.7]] },
      { material: 'subbase', points: [[10, 53.7], [30, 53.7], [30, 53.4]] },
    ],
  }) // prettier-ignore
  expect(at.text()).toContain('Finished and existing ground')
  const layers = at.findAll('[data-test=cut-layer]')
  expect(layers.map((l) => [l.attributes('fill'), l.text()])).toEqual([['#111111', 'base'], ['#222222', 'subbase']]) // prettier-ignore
  expect(at.get('[data-test=formation-line]').attributes('d')!.match(/M/g)).toHaveLength(2)
  const y = (d: string) => [...d.matchAll(/[ML][\d.]+ ([\d.]+)/g)].map((m) => Number(m[1]))
  const [finished, formation] = ['finished-line', 'formation-line'].map((t) => y(at.get(`[data-test=${t}]`).attributes('d')!))
  expect(Math.min(...formation!)).toBeGreaterThan(Math.min(...finished!)) // below it on the screen
  expect(Math.max(...finished!)).toBeLessThanOrEqual(150)
})

it('says so where there is no ground, and closes', async () => {
  const at = show({ points: [[0, null], [5, null]] }) // prettier-ignore
  expect(at.text()).toContain('no ground under this line')
  await at.get('[aria-label="Close the section"]').trigger('click')
  expect(at.emitted('close')).toHaveLength(1)
})
