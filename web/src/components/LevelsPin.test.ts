import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { nextTick, ref } from 'vue'
import { beforeEach, expect, test, vi } from 'vitest'
import LevelsPin from './LevelsPin.vue'

const { post, remove, bench } = vi.hoisted(() => ({ post: vi.fn(), remove: vi.fn(), bench: {} as Record<string, unknown> }))
vi.mock('@/api/client', () => ({ api: { post, delete: remove } }))
vi.mock('@/composables/workbench', () => ({ useWorkbench: () => bench }))

beforeEach(() => {
  setActivePinia(createPinia())
  vi.clearAllMocks()
})

/** A road that is looked at, whose design is not there yet. */
function seen(kind: string) {
  const design = ref<{ levels_follow: boolean } | null>(null)
  Object.assign(bench, { road: ref({ course: { kind } }), design, canEdit: ref(true), act: (run: () => unknown) => run() })
  return { design, at: mount(LevelsPin) }
}

test('whether levels follow is neither said nor changed until the design is there', async () => {
  const { design, at } = seen('return')
  expect(at.text()).toBe('')
  design.value = { levels_follow: true }
  await nextTick()
  expect(at.text()).toContain('levels follow')
  await at.get('button').trigger('click')
  expect(post).toHaveBeenCalledOnce()
  expect(remove).not.toHaveBeenCalled()
  design.value = { levels_follow: false }
  await nextTick()
  expect(at.text()).toContain('levels pinned')
  await at.get('button').trigger('click')
  expect(remove).toHaveBeenCalledOnce()
})

test('a road that is no return has no pin', () => {
  const { design, at } = seen('pis')
  design.value = { levels_follow: false }
  expect(at.text()).toBe('')
})
