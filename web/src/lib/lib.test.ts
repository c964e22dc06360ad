import { describe, expect, it } from 'vitest'
import { formatGrade, formatNumber, formatSlope, formatStation } from './format'
import { parseNumber, readingsOf } from './numbers'

describe('numbers for people', () => {
  it.each([
    [1250, 1000, 3, '1+250.000'],
    [1249.9996, 1000, 3, '1+250.000'],
    [99.996, 100, 2, '1+00.00'],
    [-12.5, 1000, 2, '−0+012.50'],
    [0, 1000, 0, '0+000'],
  ])('writes station %d in groups of %d', (value, group, decimals, text) => {
    expect(formatStation(value, { group }, decimals)).toBe(text)
  })
  it('groups thousands, signs and leaves no minus on zero', () => {
    expect(formatNumber(93227.4, 0)).toBe('93\u2009227')
    expect(formatNumber(-0.0004, 3, true)).toBe('0.000')
    expect(formatGrade(-0.02523)).toBe('−2.52 %')
    expect(formatNumber(null, 2)).toBe('–')
    expect([formatSlope(0.025), formatSlope(-0.5), formatSlope(1 / 1.75)]).toEqual(['+2.5 %', '1 : 2', '1 : 1.75'])
  })
  it.each([
    ['12.5+3.65', 'number', 16.15],
    ['(2+3)*4/5', 'number', 4],
    ['3,65', 'number', 3.65],
    ['600 m', 'number', 600],
    ['1+240', 'station', 1240],
    ['1+240.5', 'station', 1240.5],
    ['1 in 40', 'grade', 0.025],
    ['-2.5%', 'grade', -0.025],
    ['1:2', 'one_in', 2],
    ['93\u2009227.5', 'number', 93227.5],
    ['−4', 'number', -4],
  ] as const)('reads %s as %s', (text, kind, value) => {
    expect(parseNumber(text, kind)).toBeCloseTo(value, 10)
  })
  it.each([
    ['412,560', 'number', 1000, ['412.560', '412560']],
    ['1,240', 'station', 1000, ['1.240', '1240']],
    ['1+24', 'station', 1000, ['1+024', '1+240']],
    ['12+50.5', 'station', 1000, ['12+050.5', '1+250.5']],
    ['12+50.5', 'station', 100, ['12+50.5']],
    ['412,56', 'number', 1000, ['412,56']],
    ['1412,560', 'number', 1000, ['1412,560']],
    ['55.250', 'number', 1000, ['55.250']],
    ['1+2400', 'station', 1000, []],
    ['-0,125', 'number', 1000, ['-0.125', '-0125']],
  ] as const)('reads %s as %s in groups of %d in so many ways', (text, kind, group, words) => {
    expect(readingsOf(text, kind, group).map((r) => r.words)).toEqual(words)
  })
  it('reads nothing that can be read in two ways without asking', () => {
    expect(parseNumber('1+24', 'station')).toBeNull()
    expect(readingsOf('1+24', 'station').map((r) => r.value)).toEqual([1024, 1240])
    expect(readingsOf('-1+240.5', 'station').map((r) => r.value)).toEqual([-1240.5])
  })
  it.each(['', 'wide', '1/0', '2+', '(3', 'alert(1)', '1..2', '5 7 apples'])('reads %j as no number', (text) => {
    expect(parseNumber(text)).toBeNull()
  })
})
