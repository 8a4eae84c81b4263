/** Pressing a pad: a tap fires; what can be held stays until it is let go, when it was held down long enough; a tap on what is
 * held already lets it go. By pointer and by keyboard; whoever only clicks (a reader of the screen) taps. */
import { onScopeDispose, ref, type Ref } from 'vue'

const HELD_MS = 350

export function usePress(
  pad: () => { holds: boolean; open: boolean; disabled: boolean },
  press: () => void,
  letGo: () => void,
): { down: Ref<boolean>; onDown: () => void; onUp: () => void; onClick: () => void } {
  const down = ref(false)
  let since = 0
  let fired = false
  let handled = false

  function onDown(): void {
    if (down.value || pad().disabled) return
    down.value = handled = true
    since = performance.now()
    fired = !(pad().holds && pad().open)
    if (fired) press()
    else letGo()
  }

  function onUp(): void {
    if (!down.value) return
    down.value = false
    if (fired && pad().holds && performance.now() - since >= HELD_MS) letGo()
  }

  /** A click that no pointer or key began. */
  function onClick(): void {
    if (handled) {
      handled = false
      return
    }
    onDown()
    since = performance.now()
    onUp()
    handled = false
  }

  onScopeDispose(onUp)
  return { down, onDown, onUp, onClick }
}
