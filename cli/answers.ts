import { UsageError } from './usage'

/** Answers as they are written: `--set name=value`, each as often as it has values. @throws UsageError */
export function answersOf(said: readonly string[]): Record<string, string> {
  const answers: Record<string, string> = {}
  for (const each of said) {
    const at = each.indexOf('=')
    if (at < 1) throw new UsageError(`“--set ${each}” has no =; write --set name=value.`)
    // a name given more than once holds several answers
    const name = each.slice(0, at)
    answers[name] = name in answers ? `${answers[name]},${each.slice(at + 1)}` : each.slice(at + 1)
  }
  return answers
}
