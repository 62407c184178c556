/**
 * Milliseconds that may be left of some work by the pace of it so far; nothing until that can be told: two of its steps and two seconds are
 * wanted. `begun` is when it began (milliseconds) and how many steps were done by then.
 */
export function restTime(begun: { at: number; done: number }, now: number, { done, of }: { done: number; of: number }): number | undefined {
  const steps = done - begun.done
  const passed = now - begun.at
  return steps < 2 || passed < 2000 || done >= of ? undefined : Math.round((passed / steps) * (of - done))
}
