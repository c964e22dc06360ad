/** When the last dialog is gone the focus is where it was before the first, so that a keyboard goes on from there. Called once a page. */
import { useEventListener, useMutationObserver } from '@vueuse/core'

const DIALOG = '.p-dialog'

export function useFocusBack() {
  let last: Element | null = null
  let open = false
  useEventListener(document, 'focusin', (event) => {
    const at = event.target as Element
    if (!at.closest(DIALOG)) last = at
  })
  // dialogs are children of the body while they are open
  useMutationObserver(
    document.body,
    () => {
      const was = open
      open = document.querySelector(DIALOG) !== null
      const lost = document.activeElement === null || document.activeElement === document.body
      if (was && !open && lost && last?.isConnected) (last as HTMLElement).focus({ preventScroll: true })
    },
    { childList: true },
  )
}
