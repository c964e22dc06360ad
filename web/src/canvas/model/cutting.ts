/** The ground is left out where the road is built: between its toes, by a plan picture that the ground's shader looks into. */
import { CanvasTexture, DataTexture, LinearFilter, Vector4, type MeshLambertMaterial, type Texture } from 'three'

const MOST = 2048 // px a side
const FINEST = 4 // px per metre
const PAD = 2 // px of margin, so that what lies outside stays

/** Left and right toes in one direction, rows of e, n, z from the scene's origin. */
export interface Strip {
  left: Float32Array
  right: Float32Array
}

export interface Cutting {
  /** let a material look into the picture */
  into(material: MeshLambertMaterial): void
  /** strips between left and right toes; none builds nothing */
  set(strips: readonly Strip[]): void
  dispose(): void
}

/** Frame e0, n0, width, height in metres and pixels per metre of a picture that holds all strips. */
export function frameOf(strips: readonly Strip[]): { e0: number; n0: number; scale: number; width: number; height: number } {
  let e0 = Infinity,
    e1 = -Infinity,
    n0 = Infinity,
    n1 = -Infinity
  for (const line of strips.flatMap((strip) => [strip.left, strip.right]))
    for (let i = 0; i < line.length; i += 3) {
      e0 = Math.min(e0, line[i]!)
      e1 = Math.max(e1, line[i]!)
      n0 = Math.min(n0, line[i + 1]!)
      n1 = Math.max(n1, line[i + 1]!)
    }
  const scale = Math.min(FINEST, (MOST - 2 * PAD) / Math.max(e1 - e0, n1 - n0, 1))
  const pad = PAD / scale
  return {
    e0: e0 - pad,
    n0: n0 - pad,
    scale,
    width: Math.ceil((e1 - e0 + 2 * pad) * scale),
    height: Math.ceil((n1 - n0 + 2 * pad) * scale),
  }
}

export function makeCutting(): Cutting {
  const nothing = new DataTexture(new Uint8Array([0, 0, 0, 255]), 1, 1)
  nothing.needsUpdate = true
  const picture = { value: nothing as Texture }
  const frame = { value: new Vector4(0, 0, 1, 1) }
  function drop() {
    if (picture.value !== nothing) picture.value.dispose()
    picture.value = nothing
  }
  return {
    into(material) {
      material.onBeforeCompile = (shader) => {
        Object.assign(shader.uniforms, { builtPicture: picture, builtFrame: frame })
        shader.vertexShader = shader.vertexShader.replace('void main() {', 'varying vec2 inPlan;\nvoid main() {\n  inPlan = position.xy;')
        shader.fragmentShader = shader.fragmentShader.replace(
          'void main() {',
          'uniform sampler2D builtPicture;\nuniform vec4 builtFrame;\nvarying vec2 inPlan;\nvoid main() {\n' +
            '  if (texture2D(builtPicture, (inPlan - builtFrame.xy) / builtFrame.zw).r > 0.5) discard;',
        )
      }
    },
    set(strips) {
      drop()
      if (!strips.some((strip) => strip.left.length)) return
      const f = frameOf(strips)
      const canvas = document.createElement('canvas')
      Object.assign(canvas, { width: f.width, height: f.height })
      const pen = canvas.getContext('2d')!
      pen.fillStyle = '#000'
      pen.fillRect(0, 0, f.width, f.height)
      pen.fillStyle = '#fff'
      const put = (line: Float32Array, i: number) => pen.lineTo((line[i]! - f.e0) * f.scale, f.height - (line[i + 1]! - f.n0) * f.scale)
      for (const { left, right } of strips) {
        pen.beginPath()
        for (let i = 0; i < left.length; i += 3) put(left, i)
        for (let i = right.length - 3; i >= 0; i -= 3) put(right, i)
        pen.closePath()
        pen.fill()
      }
      const texture = new CanvasTexture(canvas)
      texture.minFilter = texture.magFilter = LinearFilter
      texture.generateMipmaps = false
      picture.value = texture
      frame.value.set(f.e0, f.n0, f.width / f.scale, f.height / f.scale)
    },
    dispose() {
      drop()
      nothing.dispose()
    },
  }
}

const MOST_BOXES = 8 // a drag changes that many junctions at once; more stay as they are until it ends

/** Boxes in plan in which a material draws nothing. */
export function makeHole() {
  const boxes = { value: Array.from({ length: MOST_BOXES }, () => new Vector4()) }
  const count = { value: 0 }
  return {
    into(material: MeshLambertMaterial) {
      material.onBeforeCompile = (shader) => {
        Object.assign(shader.uniforms, { holeBoxes: boxes, holeCount: count })
        shader.vertexShader = shader.vertexShader.replace('void main() {', 'varying vec2 inPlan;\nvoid main() {\n  inPlan = position.xy;')
        shader.fragmentShader = shader.fragmentShader.replace(
          'void main() {',
          `uniform vec4 holeBoxes[${MOST_BOXES}];\nuniform int holeCount;\nvarying vec2 inPlan;\nvoid main() {\n` +
            `  for (int i = 0; i < ${MOST_BOXES}; i++) if (i < holeCount && all(greaterThan(inPlan, holeBoxes[i].xy)) && ` +
            'all(lessThan(inPlan, holeBoxes[i].zw))) discard;',
        )
      }
    },
    /** e0, n0, e1, n1 of each, from the scene's origin */
    set(wanted: readonly (readonly [number, number, number, number])[]) {
      count.value = Math.min(wanted.length, MOST_BOXES)
      wanted.slice(0, MOST_BOXES).forEach((b, i) => boxes.value[i]!.set(...b))
    },
  }
}
