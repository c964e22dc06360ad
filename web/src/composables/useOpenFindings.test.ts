import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { defineComponent, ref } from 'vue'
import { expect, it } from 'vitest'
import { useOpenFindings } from './useOpenFindings'
import type { Workbench } from './workbench'

const junction = (id: number, main: number, side: number, corners: number[], findings: number, problems: string[] = []) => ({
  id, name: `J${id}`, main, side, corners: corners.map((road_id) => ({ road_id })),
  findings: Array.from({ length: findings }, () => ({})), problems,
}) // prettier-ignore

function open(road: number) {
  const bench = {
    surface: ref(null),
    saved: ref({}),
    project: ref({ roads: [{}] }),
    design: ref({ findings: [{}, {}] }),
    problems: ref({ line: {} }),
    road: ref({ id: road }),
    junctions: ref([junction(1, 10, 11, [12, 13], 2), junction(2, 10, 14, [15, 16], 0, ['crosses']), junction(3, 20, 21, [22], 5)]),
  } as unknown as Workbench
  let found!: ReturnType<typeof useOpenFindings>
  const At = defineComponent({ setup: () => ((found = useOpenFindings(bench)), () => null) })
  mount(At, { global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] } })
  return found
}

it.each([
  [10, [1, 2], 3 + 2 + 1],
  [14, [2], 3 + 1],
  [12, [1], 3 + 2],
  [99, [], 3],
])('of road %i counts the junctions it is a part of, whichever part', (road, joined, total) => {
  const found = open(road)
  expect(found.joined.value.map((j) => j.id)).toEqual(joined)
  expect(found.total.value).toBe(total)
  expect(found.road.value).toBe(3)
})
