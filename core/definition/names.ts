/** A name that is not taken: the plain one where it is free (`bare`), else with a number behind it. */
export function freeId(stem: string, taken: readonly string[], bare = false): string {
  if (bare && !taken.includes(stem)) return stem
  for (let count = bare ? 2 : 1; ; count++) if (!taken.includes(`${stem}${count}`)) return `${stem}${count}`
}
