/**
 * Follows the pointer from where it was pressed until it is let go: `move` is told how far it has come, in points, once it has gone beyond
 * the threshold in pixels.
 */
export function followPointer(
  event: PointerEvent,
  zoom: () => number,
  move: (dx: number, dy: number) => void,
  threshold = 0,
  end: () => void = () => {},
): void {
  const start = { x: event.clientX, y: event.clientY }
  let going = threshold === 0
  const onMove = (next: PointerEvent) => {
    const [dx, dy] = [next.clientX - start.x, next.clientY - start.y]
    going ||= Math.hypot(dx, dy) > threshold
    if (going) move(dx / zoom(), dy / zoom())
  }
  const onUp = () => {
    window.removeEventListener('pointermove', onMove)
    window.removeEventListener('pointerup', onUp)
    end()
  }
  window.addEventListener('pointermove', onMove)
  window.addEventListener('pointerup', onUp)
}
