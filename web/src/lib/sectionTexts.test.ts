import { describe, expect, it } from 'vitest'
import type { SectionSide } from '@/api/types'
import { placeLabels } from './labels'
import { formationLine, saySpan, sectionTexts } from './sectionTexts'

const node = (name: string, role: string, offset: number, level: number) => ({ name, role, offset, level, guide: false, below: false })
const half = (side: 'left' | 'right', sign: number) =>
  ({
    side,
    nodes: [node('start', 'centre', 0, 10), node('a.edge', 'lane edge', sign * 3.65, 9.9), node('b.toe', 'toe', sign * 8, 8)],
    links: [
      { from: 0, to: 1, slope: -0.025 },
      { from: 1, to: 2, slope: -0.44 },
    ],
    formation: [0, 1, 2],
    layers: [
      {
        material: 'base',
        points: [
          [0, 10],
          [sign * 4, 9.9],
          [sign * 4, 9.6],
          [0, 9.7],
        ],
      },
    ],
  }) as unknown as SectionSide
const sides = [half('left', -1), half('right', 1)]
const all = { names: true, slopes: true, widths: true, levels: true, layers: true }
const [x, y] = [(o: number) => 400 + 40 * o, (z: number) => 600 - 40 * z]

describe('texts of a section', () => {
  it('say slope, width, level, name and the thickness where they stand', () => {
    const texts = sectionTexts(sides, all, x, y)
    const of = (key: string) => texts.find((t) => t.key === key)?.text
    expect([of('srightstarta.edge'), of('wrightstarta.edge'), of('nrighta.edge'), of('zlefta.edge')]).toEqual([
      '−2.5 %',
      '3.65',
      'lane edge',
      '9.900',
    ])
    expect(of('lright0')).toBe('base 0.30')
    expect(texts.filter((t) => t.text === 'centre')).toHaveLength(1)
  })
  it('are none where none is asked for, and touch nothing where all are', () => {
    const none = { names: false, slopes: false, widths: false, levels: false, layers: false }
    expect(sectionTexts(sides, none, x, y)).toEqual([])
    const placed = placeLabels(sectionTexts(sides, all, x, y), { x0: 0, x1: 800, y0: 0, y1: 600 })
    expect(placed.length).toBeGreaterThan(10)
    for (const [i, a] of placed.entries())
      for (const b of placed.slice(i + 1))
        expect(Math.abs(a.at.x - b.at.x) > (a.text.length + b.text.length) * 2.9 || Math.abs(a.at.y - b.at.y) > 12).toBe(true)
  })
  it('leave the formation one line from the left end to the right one, upright steps in their order', () => {
    const line = formationLine(sides).map((p) => p[0])
    expect(line).toEqual([...line].sort((a, b) => a - b))
    expect(line).toHaveLength(6)
  })
})

describe('a distance measured in a section', () => {
  it.each([
    [[0, 10], [4, 9.9], '4.001 m long, 4.000 m across, −0.100 m up, −2.5 %'],
    [[4, 9.9], [0, 10], '4.001 m long, 4.000 m across, +0.100 m up, +2.5 %'],
    [[-8, 6], [-2, 9], '6.708 m long, 6.000 m across, +3.000 m up, 1 : 2'],
    [[3, 5], [3, 7.25], '2.250 m long, 0.000 m across, +2.250 m up'],
  ] as const)('from %j to %j says its slope as it is drawn', (a, b, said) => {
    expect(saySpan(a, b)).toBe(said)
  })
})
