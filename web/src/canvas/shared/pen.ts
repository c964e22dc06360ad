/** The few canvas calls that plan layers use; tests pass a recording pen. */
export interface Pen {
  strokeStyle: string | CanvasGradient | CanvasPattern
  fillStyle: string | CanvasGradient | CanvasPattern
  lineWidth: number
  globalAlpha: number
  font: string
  textAlign: CanvasTextAlign
  textBaseline: CanvasTextBaseline
  beginPath(): void
  moveTo(x: number, y: number): void
  lineTo(x: number, y: number): void
  closePath(): void
  rect(x: number, y: number, width: number, height: number): void
  clip(rule?: CanvasFillRule): void
  stroke(): void
  fill(rule?: CanvasFillRule): void
  setLineDash(segments: number[]): void
  fillText(text: string, x: number, y: number): void
  strokeText(text: string, x: number, y: number): void
  measureText(text: string): { width: number }
  arc(x: number, y: number, radius: number, from: number, to: number): void
  save(): void
  restore(): void
  translate(x: number, y: number): void
  rotate(angle: number): void
}
