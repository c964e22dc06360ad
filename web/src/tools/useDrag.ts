/** The drag of a view: its pointer events turned into presses from the corner of the view, held by the view until let go. */
import { onScopeDispose, type Ref } from 'vue'
import type { Desk } from './desk'
import { makeDrag, type AnyGrip, type DragOptions } from './drag'
import type { Press } from './tool'

export function useDrag<P>(desk: Desk, host: Ref<HTMLElement | null>, options: DragOptions<P>) {
  const drag = makeDrag(options)
  onScopeDispose(desk.holds(drag.drop))

  function pressOf(event: PointerEvent | MouseEvent): Press {
    const box = host.value!.getBoundingClientRect()
    return {
      x: event.clientX - box.left,
      y: event.clientY - box.top,
      button: Math.max(event.button, 0),
      ctrl: event.ctrlKey,
      shift: event.shiftKey,
    }
  }
  const placeOf = (event: PointerEvent | MouseEvent) => options.place(pressOf(event))
  /** Pressed on a handle (with what it is), or on the empty view. */
  function down(event: PointerEvent, grip: AnyGrip<P> | null = null) {
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    drag.press(pressOf(event), grip)
  }
  const move = (event: PointerEvent) => drag.move(pressOf(event))
  const up = (event: PointerEvent) => drag.up(pressOf(event))
  return { held: drag.held, panning: drag.panning, pressOf, placeOf, down, move, up }
}
