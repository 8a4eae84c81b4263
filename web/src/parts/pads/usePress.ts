/** Pressing a pad: a tap fires; what can be held stays until it is let go, when it was held down long enough; a tap on what is
 * held already releases it. By pointer and by keyboard; whoever only clicks (a screen reader) taps. */
import { onScopeDispose, ref, type Ref } from 'vue'

const HELD_MS = 350
/** A click this soon after a pointer or a key belongs to it. */
const SAME_MS = 500

export function usePress(
  pad: () => { holds: boolean; open: boolean; disabled: boolean },
  press: () => void,
  letGo: () => void,
): { down: Ref<boolean>; onDown: () => void; onUp: () => void; lift: () => void; onClick: () => void } {
  const down = ref(false)
  let since = 0
  let fired = false
  let upAt = -SAME_MS

  function onDown(): void {
    if (down.value || pad().disabled) return
    down.value = true
    since = performance.now()
    fired = !(pad().holds && pad().open)
    if (fired) press()
    else letGo()
  }

  /** A key far from the button is released: no click follows. */
  function lift(): void {
    if (!down.value) return
    down.value = false
    if (fired && pad().holds && performance.now() - since >= HELD_MS) letGo()
  }

  function onUp(): void {
    if (down.value) upAt = performance.now()
    lift()
  }

  /** A click without a pointer or a key before it. */
  function onClick(): void {
    if (down.value || performance.now() - upAt < SAME_MS) return
    onDown()
    lift()
  }

  onScopeDispose(lift)
  return { down, onDown, onUp, lift, onClick }
}
