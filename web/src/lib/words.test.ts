import { describe, expect, it } from 'vitest'
import { counted } from './words'

describe('numbers of things', () => {
  it('fit their words', () => {
    expect([counted(0, 'line'), counted(1, 'line'), counted(2, 'line')]).toEqual(['0 lines', '1 line', '2 lines'])
    expect([counted(1, 'was', 'were'), counted(3, 'was', 'were')]).toEqual(['1 was', '3 were'])
    expect(counted(12500, 'point')).toMatch(/^12.500 points$/)
  })
})
