/** The tools of the part bench. */
import { ref } from 'vue'
import type { PartBench } from '@/bench/partBench'
import type { BenchPlace, Press, Tool } from '../tool'

export interface BenchSheet {
  bench: PartBench
  /** the node under a press, by its bare name in the part in hand; "start" for where it begins */
  nodeAt: (press: Press) => string | null
  /** whether a press lies on the ground line */
  onGround: (press: Press) => boolean
  /** the node right over or under a press, the nearest one */
  uprightTo: (press: Press) => string | null
  placeOf: (node: string) => BenchPlace | null
  since: { value: string }
}

/** Nodes one after another; each from the one before, or from the one that was clicked. */
function addNode({ bench, nodeAt, uprightTo, onGround, placeOf, since }: BenchSheet): Tool<BenchPlace> {
  return {
    id: 'bench-node', view: 'bench', stage: 'sections', name: 'Add node',
    hint: 'Click where the node should be, right under or over a node or on; click a node to go on from it.',
    ready: () => bench.own.value !== null,
    click: async (at, press) => {
      const there = nodeAt(press)
      if (there) return void (since.value = there)
      const from = uprightTo(press) ?? since.value
      const o = from === since.value ? at.o : placeOf(from)!.o
      const got = await bench.gesture({ do: 'put', since: from, to: [o, at.z], on_ground: onGround(press) })
      const added = got?.part?.data.nodes as { name: string }[] | undefined
      if (got && added?.length) since.value = added.at(-1)!.name
    },
    drawn: () => {
      const from = placeOf(since.value)
      return from ? [from] : []
    },
  } // prettier-ignore
}

/** An edge along the nodes that are clicked, until Enter. */
function join({ bench, nodeAt, placeOf }: BenchSheet): Tool<BenchPlace> {
  const along = ref<string[]>([])
  return {
    id: 'bench-join', view: 'bench', stage: 'sections', name: 'Join nodes',
    hint: 'Click nodes in a row; Enter ends the edge. Its roles are chosen at the right.',
    ready: () => bench.own.value !== null,
    click: (_at, press) => {
      const there = nodeAt(press)
      if (there && !along.value.includes(there)) along.value = [...along.value, there]
    },
    finish: async () => {
      const nodes = along.value
      along.value = []
      if (nodes.length > 1) await bench.change([{ do: 'join', nodes, roles: [] }])
    },
    takeBack: () => {
      if (!along.value.length) return false
      along.value = along.value.slice(0, -1)
      return true
    },
    cancel: () => along.value.splice(0).length > 0,
    drawn: () => along.value.map(placeOf).filter((p) => p !== null),
  } // prettier-ignore
}

/** The loop that was clicked into becomes an area. */
function area({ bench }: BenchSheet): Tool<BenchPlace> {
  return {
    id: 'bench-area', view: 'bench', stage: 'sections', name: 'Area', hint: 'Click into a loop of nodes; it is closed by a straight line.',
    ready: () => bench.own.value !== null,
    click: (at) => bench.gesture({ do: 'loop', to: [at.o, at.z] }),
  } // prettier-ignore
}

/** The trial ground gets a vertex where it is clicked. */
function bendGround({ bench }: BenchSheet): Tool<BenchPlace> {
  return {
    id: 'bench-ground', view: 'bench', stage: 'sections', name: 'Bend ground', looks: true,
    hint: 'Click to put a vertex into the ground; drag vertices; Delete takes the chosen one out.',
    click: (at) => {
      const ground = bench.answer.value?.ground ?? []
      bench.bend([...ground, [at.o, at.z] as [number, number]].sort((a, b) => a[0] - b[0]).map((p) => [p[0], p[1]]))
    },
  } // prettier-ignore
}

export const benchTools = (sheet: BenchSheet): Tool<BenchPlace>[] => [addNode(sheet), join(sheet), area(sheet), bendGround(sheet)]
