/** The part bench: which template or part lies on it, the ground bent under it, what was tried and not yet saved. Everything that is
 * computed comes from the server; the last good drawing stays while something cannot be built. */
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { api, type AppError } from '@/api/client'
import type { Acted, BenchAnswer, Gesture, Library, PlacedPart, Project, RoadRow, Section, Step, Template } from '@/api/types'
import { newest } from '@/composables/newest'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import type { ActOptions, useActs } from './acts'

export type SideName = 'left' | 'right'
export interface Chosen {
  side: SideName
  id: string
}
export interface BenchRow {
  id: string
  part: string | number
  values: Record<string, number | string>
  targets: Record<string, { surface?: number; level?: number }>
}
export type Subject = { kind: 'template'; id: number } | { kind: 'part'; id: number }
type Ground = [number, number][]

/** A template's rows as the bench sends them. */
export function rowsOf(parts: PlacedPart[]): BenchRow[] {
  return parts.map((p) => ({
    id: p.id,
    part: p.part,
    values: Object.fromEntries(p.parameters.filter((x) => x.value !== x.usual).map((x) => [x.name, x.value])),
    targets: Object.fromEntries(
      p.targets
        .filter((t) => t.surface !== null || t.level !== null)
        .map((t) => [t.name, t.level !== null ? { level: t.level } : { surface: t.surface! }]),
    ),
  }))
}

interface Around {
  projectId: number
  project: Ref<Project | null>
  section: Ref<Section | null>
  template: Ref<Template | null>
  road: Ref<RoadRow | null>
  acts: ReturnType<typeof useActs>
}

export function usePartBench({ projectId, project, section, template: roadTemplate, road, acts }: Around) {
  const ui = useUi()
  const told = useTold()
  const picked = ref<Subject | null>(null)
  const chosen = ref<Chosen | null>(null)
  /** the trial ground: a preset by its name, the road's at the reading mark, or one that was bent */
  const groundAsked = ref('road')
  const bent = shallowRef<Ground | null>(null)
  const bentLevel = ref(0)
  const crossfall = ref<'template' | 'mark' | 'left' | 'right'>('template')
  const answer = shallowRef<BenchAnswer | null>(null)
  const problem = ref('')
  /** what lies on the bench, and on what, in the answer that is shown */
  const about = ref('')
  const seen = ref('')
  const compared = ref<number | null>(null)
  const other = shallowRef<BenchAnswer | null>(null)
  const library = shallowRef<Library | null>(null)

  const subject = computed<Subject | null>(() => {
    const p = picked.value
    const there = p && (p.kind === 'template' ? project.value?.templates : project.value?.parts)?.some((x) => x.id === p.id)
    const usual = roadTemplate.value ?? project.value?.templates[0]
    return there ? p : usual ? { kind: 'template', id: usual.id } : null
  })
  const template = computed(() => {
    const s = subject.value
    return s?.kind === 'template' ? (project.value?.templates.find((t) => t.id === s.id) ?? null) : null
  })
  const rows = computed<Record<SideName, BenchRow[]>>(() => {
    const s = subject.value
    if (s?.kind === 'part') return { left: [], right: [{ id: 'part', part: s.id, values: {}, targets: {} }] }
    return { left: rowsOf(template.value?.left ?? []), right: rowsOf(template.value?.right ?? []) }
  })
  const inHand = computed<Chosen | null>(() => {
    if (subject.value?.kind === 'part') return { side: 'right', id: 'part' }
    const c = chosen.value
    return c && rows.value[c.side].some((r) => r.id === c.id) ? c : null
  })
  const users = computed(() => (project.value?.roads ?? []).filter((r) => r.template_id === template.value?.id).map((r) => r.name))

  // --- the trial ground ---------------------------------------------------------------------------------
  const fromRoad = computed<Ground | null>(() => {
    const known = (section.value?.ground ?? []).filter((p): p is [number, number] => p[1] !== null)
    return known.length > 1 ? known.map(([o, z]) => [o, z]) : null
  })
  /** without a road under the mark a usual ground lies there */
  const groundKind = computed({
    get: () => (groundAsked.value === 'road' && !fromRoad.value ? 'shallow fill' : groundAsked.value),
    set: (kind) => (groundAsked.value = kind),
  })
  const ground = computed<Ground | null>(() =>
    groundKind.value === 'bent' ? bent.value : groundKind.value === 'road' ? fromRoad.value : null,
  )
  const level = computed(() => (groundKind.value === 'bent' ? bentLevel.value : (section.value?.level ?? 0)))
  const preset = computed(() => (['road', 'bent'].includes(groundKind.value) ? '' : groundKind.value))
  const rates = computed<[number, number] | null>(() => {
    if (crossfall.value === 'template') return null
    if (crossfall.value === 'left') return [-0.05, 0.05]
    if (crossfall.value === 'right') return [0.05, -0.05]
    const of = (side: SideName) => section.value?.sides.find((s) => s.side === side)?.links[0]?.slope ?? 0
    return [of('left'), of('right')]
  })
  function bend(to: Ground) {
    bentLevel.value = answer.value?.level ?? level.value
    bent.value = to
    groundKind.value = 'bent'
  }
  /** Another level of the centre over the ground that is there. */
  function lift(to: number) {
    bent.value = answer.value?.ground.map((p) => [p[0], p[1]]) ?? null
    bentLevel.value = to
    groundKind.value = 'bent'
  }

  /** own parts by revision: another one is another drawing */
  const partsSeen = computed(() => JSON.stringify([project.value?.parts, project.value?.structures]))

  // --- asking -------------------------------------------------------------------------------------------
  interface Asked {
    body: object
    about: string
    state: string
    turn: number
    /** what the usual grounds hang on; they are asked for only where that is another than in those that are shown */
    thumbs: string
  }
  let thumbsOf = ''
  let turn = 0 // of the saved state: what was asked before an act is not shown after it
  const asked = newest<Asked, BenchAnswer>(
    (a, signal) => api.post<BenchAnswer>(`/projects/${projectId}/bench`, { ...a.body, thumbs: a.thumbs !== thumbsOf }, signal),
    (got, a) => {
      if (a.turn !== turn) return
      answer.value = a.thumbs === thumbsOf ? { ...got, thumbs: answer.value?.thumbs ?? [] } : got
      thumbsOf = a.thumbs
      about.value = a.about
      seen.value = a.state
      problem.value = ''
    },
    (error, a) => {
      if (a.turn !== turn) return
      seen.value = a.state
      problem.value = (error as AppError).message
    },
  )
  const body = (gesture: Gesture | null, steps: Step[] = [], thumbs = true) => ({
    ...rows.value,
    side: inHand.value?.side ?? null,
    part: inHand.value?.id ?? '',
    steps,
    ground: ground.value,
    preset: preset.value,
    level: level.value,
    rates: rates.value,
    thumbs,
    gesture,
    surface: road.value?.surface_id ?? null,
  })
  function ask(gesture: Gesture | null = null) {
    if (!subject.value) return
    const thumbs = JSON.stringify([rows.value, level.value, rates.value, gesture, partsSeen.value])
    asked.ask({ body: body(gesture), about: lies.value, state: state.value, turn, thumbs })
  }
  const lies = computed(() => JSON.stringify([subject.value, groundKind.value === 'bent' ? '' : groundKind.value]))
  const state = computed(() => (ui.stage === 'sections' && subject.value ? JSON.stringify(body(null)) + partsSeen.value : ''))
  /** Whether the drawing is yet to follow what lies on the bench. */
  const behind = computed(() => state.value !== seen.value)
  watch(
    state,
    (now) => {
      if (now) ask()
    },
    { immediate: true },
  )
  watch(
    () => JSON.stringify([subject.value, rows.value, partsSeen.value]),
    () => turn++,
    { flush: 'sync' },
  )
  watch(
    () => [compared.value, state.value] as const,
    async ([id]) => {
      const with_ = project.value?.templates.find((t) => t.id === id)
      if (!with_ || ui.stage !== 'sections') return void (other.value = null)
      const sides = { left: rowsOf(with_.left), right: rowsOf(with_.right), side: null, part: '' }
      other.value = await api.post<BenchAnswer>(`/projects/${projectId}/bench`, { ...body(null, [], false), ...sides }).catch(() => null)
    },
  )
  async function needLibrary() {
    library.value ??= await api.get<Library>('/library')
    return library.value
  }

  /** The colour of a material; one that a person made up has the same as all such. */
  const colourOf = (material: string) => library.value?.materials[material] ?? library.value?.other ?? 'none'

  // --- acts ---------------------------------------------------------------------------------------------
  const part = computed(() => answer.value?.part ?? null)
  const own = computed(() => part.value?.id ?? null)
  /** Steps on the part in hand; one of the library cannot be changed. */
  async function change(steps: Step[], options?: ActOptions): Promise<Acted | null> {
    if (own.value === null) {
      told.tell(
        `${part.value?.label ?? 'This part'} belongs to the library. Copy it to change its rules; its values can be changed as it is.`,
        {
          kind: 'wrong',
          go: { label: 'Copy to change', run: () => void copyToChange() },
        },
      )
      ask()
      return null
    }
    const done = await acts.change('part', own.value, { steps }, options)
    if (!done) ask()
    return done
  }
  /** Values of the part in hand: the template's, or the part's usual ones while it lies on the bench alone. */
  async function setValues(values: Record<string, number | string | null>, options?: ActOptions, side: SideName | 'both' = sideOfValues()) {
    const s = subject.value
    if (s?.kind === 'part') {
      const usual = Object.entries(values).filter(([, v]) => v !== null)
      return change(
        usual.map(([name, value]) => ({ do: 'set parameter', parameter: name, value, metres: true })),
        options,
      )
    }
    if (!template.value || !inHand.value) return null
    return acts.change('template', template.value.id, { side, part: inHand.value.id, values }, options)
  }
  /** Both sides change together while they hold the same part with the same values. */
  function sideOfValues(): SideName | 'both' {
    const at = inHand.value
    if (!at) return 'both'
    const row = (side: SideName) => rows.value[side].find((r) => r.id === at.id)
    const same = JSON.stringify(row('left')) === JSON.stringify(row('right'))
    return same ? 'both' : at.side
  }
  /** Save what a gesture came to. */
  async function keep(got: Pick<BenchAnswer, 'steps' | 'values'>) {
    if (Object.keys(got.values).length) await setValues(got.values, { quiet: true })
    if (got.steps.length) await change(got.steps as Step[], { quiet: true })
  }
  /** A gesture that is one click: tried, and saved as what it came to. */
  async function gesture(g: Gesture) {
    try {
      const got = await api.post<BenchAnswer>(`/projects/${projectId}/bench`, body(g, [], false))
      await keep(got)
      return got
    } catch (error) {
      told.tell((error as AppError).message, { kind: 'wrong' })
      return null
    }
  }
  async function copyToChange() {
    const at = inHand.value
    if (template.value && at) await acts.post('template', template.value.id, 'own', { side: at.side, part: at.id })
  }
  async function setRows(new_: Partial<Record<SideName, BenchRow[]>>, what: string) {
    if (template.value) return acts.put('template', template.value.id, 'rows', { ...rows.value, ...new_, what })
    return null
  }
  /** Another place, another part, one more, one less; both sides alike where they were alike. */
  function editSides(side: SideName, edit: (rows: BenchRow[]) => BenchRow[], what: string) {
    const alike = JSON.stringify(rows.value.left) === JSON.stringify(rows.value.right)
    const now = edit(rows.value[side])
    return setRows(alike ? { left: now, right: now } : { [side]: now }, what)
  }
  const post = (path: string, given: object) => acts.act(() => api.post<Acted>(`/projects/${projectId}/${path}`, given))
  async function newPart(label: string, like?: string | number) {
    const done = (await post('parts', { label, like: like ?? null })) as (Acted & { part_id?: number }) | null
    if (done?.part_id) picked.value = { kind: 'part', id: done.part_id }
    return done
  }
  async function newTemplate(name: string, like?: number) {
    const done = (await post('templates', { name, like: like ?? null })) as (Acted & { template_id?: number }) | null
    if (done?.template_id) picked.value = { kind: 'template', id: done.template_id }
    return done
  }
  return {
    picked,
    subject,
    template,
    rows,
    chosen,
    inHand,
    users,
    groundKind,
    ground,
    level,
    crossfall,
    bend,
    lift,
    answer,
    about,
    lies,
    behind,
    problem,
    ask,
    part,
    own,
    change,
    setValues,
    sideOfValues,
    keep,
    gesture,
    copyToChange,
    setRows,
    editSides,
    newPart,
    newTemplate,
    post,
    compared,
    other,
    library,
    needLibrary,
    colourOf,
    fromRoad,
  }
}
export type PartBench = ReturnType<typeof usePartBench>
