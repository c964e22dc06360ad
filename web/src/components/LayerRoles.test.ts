import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import type { SurveyLayer } from '@/api/types'
import LayerRoles from './LayerRoles.vue'

const layer = (type: string, code: string, count: number, vertices: number, role: SurveyLayer['role']): SurveyLayer => ({
  type,
  code,
  key: `${type}/${code}`,
  count,
  vertices,
  levels: [50, 61.25],
  role,
  ruled: false,
})
const LAYERS = [
  layer('CAD line', 'BANK', 2, 40, 'breakline'),
  layer('CAD point', 'TREE', 9, 9, 'ignore'),
  layer('CAD line', 'X-17', 1, 2, 'unsorted'),
]

describe.each([[false], [true]])('roles of layers, narrow: %s', (narrow) => {
  const made = (disabled = false) => mount(LayerRoles, { props: { layers: LAYERS, narrow, disabled } })
  it('offers lines what lines can be, and points what points can be', () => {
    const options = (code: string) =>
      made()
        .findAll(`[data-test="role-${code}"] option`)
        .map((o) => o.attributes('value'))
    expect(options('BANK')).toEqual(['breakline', 'outer', 'hole', 'background', 'ignore', 'unsorted'])
    expect(options('TREE')).toEqual(['spot', 'breakline', 'outer', 'hole', 'background', 'ignore', 'unsorted'])
  })
  it('shows what is unsorted, and tells a change by the layer and its role', async () => {
    const w = made()
    expect(w.findAll('.unsorted')).toHaveLength(1)
    expect(w.find('.unsorted').text()).toContain('X-17')
    await w.find('[data-test="role-X-17"]').setValue('background')
    expect(w.emitted('change')).toEqual([['CAD line/X-17', 'background']])
  })
  it('changes nothing for a viewer', () =>
    expect(
      made(true)
        .findAll('select')
        .every((s) => s.attributes('disabled') !== undefined),
    ).toBe(true))
})
