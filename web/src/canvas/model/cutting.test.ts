import { MeshLambertMaterial, type WebGLProgramParametersWithUniforms, type WebGLRenderer } from 'three'
import { expect, it } from 'vitest'
import { makeHole } from './cutting'

/** What a material makes of a shader. */
function compiled(into: (material: MeshLambertMaterial) => void) {
  const material = new MeshLambertMaterial()
  const shader = {
    uniforms: {},
    vertexShader: 'void main() {\n}',
    fragmentShader: 'void main() {\n}',
  } as unknown as WebGLProgramParametersWithUniforms
  into(material)
  material.onBeforeCompile(shader, {} as WebGLRenderer)
  return shader
}

it('leaves out what lies in its boxes, as many as there are', () => {
  const hole = makeHole()
  const shader = compiled(hole.into)
  expect(shader.fragmentShader.match(/void main/g)).toHaveLength(1)
  expect(shader.fragmentShader).toContain('discard')
  expect(shader.vertexShader).toContain('inPlan = position.xy')
  const { holeCount, holeBoxes } = shader.uniforms as { holeCount: { value: number }; holeBoxes: { value: { toArray(): number[] }[] } }
  expect(holeCount.value).toBe(0)
  hole.set([[1, 2, 3, 4], [5, 6, 7, 8]]) // prettier-ignore
  expect(holeCount.value).toBe(2) // a material that was compiled before sees it
  expect(holeBoxes.value.slice(0, 2).map((b) => b.toArray())).toEqual([[1, 2, 3, 4], [5, 6, 7, 8]]) // prettier-ignore
  hole.set(Array.from({ length: 30 }, (_, i) => [i, i, i + 1, i + 1] as const))
  expect(holeCount.value).toBe(holeBoxes.value.length)
  hole.set([])
  expect(holeCount.value).toBe(0)
})
