import type { PackTieResult } from '../../core/api/packs'
import type { Cover } from '../../core/pack/cover'
import type { PackDefinition } from '../../core/pack/definition'
import { answerWords } from '../../core/parameter/answers'
import type { Answer } from '../../core/value/value'

/** What the cover of a pack says: its answers, its moment, what ties out. */
export function coverOf(
  name: string,
  pack: PackDefinition,
  values: Readonly<Record<string, Answer>>,
  ties: readonly PackTieResult[],
  moment: number,
): Cover {
  const time = new Intl.DateTimeFormat('en-GB', { dateStyle: 'long', timeStyle: 'short' }).format(moment)
  const of = ({ report, name: own }: PackTieResult) => (report === undefined ? own : `${report}: ${own}`)
  const failed = ties.filter(each => !each.holds)
  const holding = ties.length - failed.length
  return {
    title: name,
    lines: pack.parameters.filter(each => !each.hidden).map(each => `${each.label}: ${answerWords(each, values)}`),
    moment: `All figures as of ${time}`,
    contents: 'Contents',
    ties: ties.length
      ? [
          { text: `${holding} of ${ties.length} tie-outs hold.`, holds: !failed.length },
          ...failed.map(each => ({
            text: `${of(each)}: ${each.sentence ?? `${each.left} is not ${each.right}, they differ by ${each.difference}`}`,
            holds: false,
          })),
        ]
      : [],
  }
}
