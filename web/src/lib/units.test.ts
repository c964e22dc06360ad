/** What a person sees and types in the project's units. */
import { scaleLinear } from 'd3-scale'
import { afterEach, describe, expect, it } from 'vitest'
import { bandInterval } from '@/composables/useLongSection'
import { tickInterval } from '@/canvas/plan/layers'
import { bareLength, inUnits, roundTicks, sayArea, sayFar, sayLand, sayLength, sayVolume, units, UNITS } from './units'

afterEach(() => (units.value = UNITS.m))

describe('units', () => {
  it('leaves metres as they are', () => {
    expect([sayLength(12.3456, 2), sayArea(3, 1), sayVolume(-7, 0, true), sayLand(25_000)]).toEqual([
      '12.35 m',
      '3.0 m²',
      '−7 m³',
      '2.50 ha',
    ])
    expect(bareLength(null, 2)).toBe('–')
  })
  it('says feet, square feet, cubic yards, acres and miles by their definitions', () => {
    units.value = UNITS.ft
    expect([
      sayLength(0.3048, 3),
      sayArea(0.3048 ** 2, 3),
      sayVolume(27 * 0.3048 ** 3, 3),
      sayLand(4046.8564224),
      sayFar(1609.344),
    ]).toEqual(['1.000 ft', '1.000 ft²', '1.000 yd³', '1.00 ac', '1.0 mi'])
    units.value = UNITS['us-ft']
    expect(sayLength(1200, 1)).toBe('3937.0 ft')
  })
  it('converts what a field names, and nothing else', () => {
    units.value = UNITS.ft
    expect(inUnits('km/h')).toEqual({ per: 1.609344, unit: 'mph' })
    expect(inUnits('m/%')).toEqual({ per: 0.3048, unit: 'ft/%' })
    expect([inUnits('%'), inUnits('mm'), inUnits('°')].map((u) => u.per)).toEqual([1, 1, 1])
  })
  it('puts axes, bands and chainages at round values of the unit', () => {
    units.value = UNITS.ft
    const ticks = roundTicks(scaleLinear([0, 60], [0, 300]), 5)
    expect(ticks.map((t) => t.text)).toEqual(['0', '50', '100', '150'])
    expect(ticks[1]!.at).toBeCloseTo(15.24, 9)
    units.value = UNITS.m
    const fine = roundTicks(scaleLinear([54.58, 55.02], [0, 300]), 9).map((t) => t.text)
    expect(fine).toContain('54.95')
    expect(new Set(fine).size).toBe(fine.length)
    units.value = UNITS.ft
    for (const step of [bandInterval(0.7), bandInterval(3), tickInterval(0.4), tickInterval(2)]) {
      expect(Math.abs(step / 0.3048 - Math.round(step / 0.3048))).toBeLessThan(1e-9)
    }
  })
})
